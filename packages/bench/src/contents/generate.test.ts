import { mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { generateContents } from './generate.js';
import { SMALL_SIZE } from './sizes.js';
import { makeLife, moment } from './life.js';
import { Chance } from './random.js';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'cellar-contents-'));
  await generateContents(
    join(folder, 'phone'),
    'a life',
    { model: 'Arc 7', kind: 'phone' },
    SMALL_SIZE,
  );
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
});

const inPhone = (path: string) => join(folder, 'phone', path);
async function filesIn(path: string): Promise<string[]> {
  const entries = await readdir(inPhone(path), { recursive: true, withFileTypes: true });
  return entries
    .filter((e) => e.isFile())
    .map((e) => join(e.parentPath, e.name))
    .sort();
}
const texts = async (path: string) =>
  Promise.all((await filesIn(path)).map((file) => readFile(file, 'utf8')));

describe('a made-up person’s phone', () => {
  test('knows the same people everywhere: who calls and writes is in the contacts', async () => {
    const numbers = new Set(
      (await texts('contacts')).map((card) => /TEL[^:]*:(.+?)\r?\n/.exec(card)?.[1]),
    );
    expect(numbers.size).toBe(SMALL_SIZE.people);
    for (const line of (await texts('calls')).flatMap((t) => t.trim().split('\n').slice(1))) {
      expect(numbers).toContain(line.split(',')[2]);
    }
    const messages = (await filesIn('messages')).filter((file) => file.endsWith('.jsonl'));
    for (const file of messages) {
      for (const line of (await readFile(file, 'utf8')).trim().split('\n')) {
        const { from } = JSON.parse(line) as { from: string };
        expect(from === 'me' || numbers.has(from)).toBe(true);
      }
    }
  });

  test('has only numbers kept for fiction, and addresses of example domains', async () => {
    for (const card of await texts('contacts')) {
      expect(card).toMatch(/\+44 7700 900\d{3}/);
      expect(card).toMatch(/EMAIL[^:]*:\S+@example\.org/);
    }
    for (const record of await texts('saved-passwords')) expect(record).toMatch(/\.example\.com"/);
  });

  test('has every picture that a message speaks of, beside it', async () => {
    let attachments = 0;
    for (const file of (await filesIn('messages')).filter((f) => f.endsWith('.jsonl'))) {
      for (const line of (await readFile(file, 'utf8')).trim().split('\n')) {
        const { attachment } = JSON.parse(line) as { attachment: string | null };
        if (attachment === null) continue;
        attachments += 1;
        const picture = await sharp(join(file, '..', attachment)).metadata();
        expect(picture).toMatchObject({ format: 'jpeg', width: 640, height: 480 });
      }
    }
    const pictures = (await filesIn('messages')).filter((file) => file.endsWith('.jpg'));
    expect(pictures).toHaveLength(attachments);
  });

  test('has messages in the order of their time', async () => {
    for (const file of (await filesIn('messages')).filter((f) => f.endsWith('.jsonl'))) {
      const times = (await readFile(file, 'utf8'))
        .trim()
        .split('\n')
        .map((line) => (JSON.parse(line) as { at: string }).at);
      expect(times).toEqual([...times].sort());
      for (const time of times) expect(file).toContain(time.slice(0, 7));
    }
  });

  test('has photographs with their date and place, dated as they are named', async () => {
    const photographs = await filesIn('photographs');
    expect(photographs).toHaveLength(SMALL_SIZE.photographs);
    for (const file of photographs) {
      const { exif, format, width } = await sharp(file).metadata();
      expect([format, width]).toEqual(['jpeg', SMALL_SIZE.photographWidth]);
      const named = /(\d{4})-(\d\d)-(\d\d)_/.exec(file)?.slice(1).join(':') ?? 'none';
      expect(exif?.toString('latin1')).toContain(named);
      expect(exif?.toString('latin1')).toContain('Arc 7');
      expect((await stat(file)).mtime.toISOString().slice(0, 10).replaceAll('-', ':')).toBe(named);
    }
  });

  test('has calendar entries at places, with people, that any calendar reads', async () => {
    const events = await texts('calendar');
    expect(events).toHaveLength(SMALL_SIZE.others * 3);
    for (const event of events) {
      for (const field of [
        'BEGIN:VEVENT',
        'UID:',
        'DTSTART',
        'DTEND',
        'SUMMARY:',
        'LOCATION:',
        'GEO:',
      ]) {
        expect(event).toContain(field);
      }
      expect(event).toMatch(/END:VCALENDAR\s*$/);
    }
  });

  test('has voice notes that are sound', async () => {
    for (const file of await filesIn('voice-notes')) {
      const head = (await readFile(file)).subarray(0, 12).toString('latin1');
      expect(head).toMatch(/^RIFF....WAVE$/s);
    }
  });

  test('appears only when it is complete', async () => {
    expect(await readdir(folder)).toEqual(['phone']);
  });
});

describe('chance', () => {
  test('is the same for the same seed, and stays within what was asked', () => {
    const one = new Chance('seed');
    const two = new Chance('seed');
    for (let i = 0; i < 500; i++) {
      const n = one.whole(-3, 4);
      expect(n).toBe(two.whole(-3, 4));
      expect(n).toBeGreaterThanOrEqual(-3);
      expect(n).toBeLessThanOrEqual(4);
    }
    expect(() => one.pick([])).toThrow(RangeError);
  });

  test('every moment of a life lies within it', () => {
    const life = makeLife('another life', 3);
    for (let i = 0; i < 300; i++) {
      const at = moment(life).getTime();
      expect(at).toBeGreaterThanOrEqual(life.from.getTime());
      expect(at).toBeLessThan(life.until.getTime() + 86_400_000);
    }
  });
});
