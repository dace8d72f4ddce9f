import { mkdir, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import wavefile from 'wavefile';
import { makeLife, moment, paragraphs, sentence, type Life } from './life.js';
import { calendar, calls, contacts, notes } from './organiser.js';
import { Darkroom } from './photographs.js';

export interface NewFile {
  path: string;
  /** A promise where drawing takes a while, so that several can be drawn at once. */
  contents: string | Uint8Array | Promise<Uint8Array>;
  modified: Date;
}

/** How much a device holds. */
export interface ContentsSize {
  people: number;
  photographs: number;
  /** Width of a photograph in pixels; it is three quarters as high. */
  photographWidth: number;
  threads: number;
  /** Files of everything else are counted in proportion to this. */
  others: number;
}

/** About 3,100 items and 340 MB. */
export const DEMO_SIZE: ContentsSize = {
  people: 260,
  photographs: 150,
  photographWidth: 2400,
  threads: 36,
  others: 100,
};

/** About 150 items and 2 MB: for tests. */
export const SMALL_SIZE: ContentsSize = {
  people: 12,
  photographs: 8,
  photographWidth: 640,
  threads: 2,
  others: 3,
};

/**
 * Fills a folder with one made-up person's files, the same for the same seed. The folder appears only
 * when it is complete.
 */
export async function generateContents(
  folder: string,
  seed: string,
  model: string,
  size: ContentsSize,
): Promise<void> {
  const unfinished = `${folder}.unfinished`;
  await rm(unfinished, { recursive: true, force: true });
  const life = makeLife(seed, size.people);
  const writing = new Set<Promise<void>>();
  for (const file of allFiles(life, seed, model, size)) {
    const written = write(join(unfinished, file.path), file).finally(() => writing.delete(written));
    writing.add(written);
    if (writing.size >= AT_ONCE) await Promise.race(writing);
  }
  await Promise.all(writing);
  await rename(unfinished, folder);
}

const AT_ONCE = 4;

async function write(path: string, { contents, modified }: NewFile): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  await writeFile(path, await contents);
  await utimes(path, modified, modified);
}

function* allFiles(
  life: Life,
  seed: string,
  model: string,
  size: ContentsSize,
): Generator<NewFile> {
  const darkroom = new Darkroom(life, model);
  const months = monthsOf(life);
  yield* contacts(life);
  yield* calendar(life, size.others * 3);
  yield* notes(life, size.others);
  yield* calls(life, months);
  yield* messages(life, size.threads, months, darkroom, seed);
  yield* voiceNotes(life, Math.ceil(size.others / 4));
  yield* records(life, size.others);
  yield* photographs(life, size, darkroom, seed);
}

function monthsOf(life: Life): string[] {
  const months: string[] = [];
  for (const at = new Date(life.from); at <= life.until; at.setUTCMonth(at.getUTCMonth() + 1)) {
    months.push(at.toISOString().slice(0, 7));
  }
  return months;
}

/** One folder a thread, one file of JSON Lines a month, pictures beside. */
function* messages(
  life: Life,
  threads: number,
  months: readonly string[],
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  for (let t = 1; t <= threads; t++) {
    const group = life.chance.happens(0.25);
    const members = Array.from({ length: group ? 4 : 1 }, () => life.chance.pick(life.people));
    const folder = `messages/thread-${String(t).padStart(3, '0')}`;
    for (const month of months) {
      if (life.chance.happens(0.35)) continue;
      const lines: string[] = [];
      for (let n = 0; n < life.chance.whole(4, 60); n++) {
        const at = new Date(`${month}-01T07:00:00Z`);
        at.setUTCMinutes(life.chance.whole(0, 27 * 1440));
        const from = life.chance.happens(0.5) ? 'me' : life.chance.pick(members).phone;
        let attachment: string | null = null;
        if (life.chance.happens(0.02)) {
          attachment = `media/${month}-${String(n).padStart(3, '0')}.jpg`;
          yield {
            path: `${folder}/${attachment}`,
            contents: darkroom.photograph(
              `${seed} ${folder} ${attachment}`,
              at,
              life.chance.pick(life.places),
              640,
              480,
            ),
            modified: at,
          };
        }
        lines.push(
          JSON.stringify({ at: at.toISOString(), from, text: sentence(life), attachment }),
        );
      }
      lines.sort();
      yield {
        path: `${folder}/${month}.jsonl`,
        contents: `${lines.join('\n')}\n`,
        modified: new Date(`${month}-28T22:00:00Z`),
      };
    }
    yield {
      path: `${folder}/thread.json`,
      contents: JSON.stringify({ group, members: members.map((m) => m.phone) }, null, 2),
      modified: life.from,
    };
  }
}

function* photographs(
  life: Life,
  size: ContentsSize,
  darkroom: Darkroom,
  seed: string,
): Generator<NewFile> {
  const width = size.photographWidth;
  for (let i = 1; i <= size.photographs; i++) {
    const at = moment(life);
    const stamp = at.toISOString();
    const name = `${stamp.slice(0, 10)}_${stamp.slice(11, 19).replaceAll(':', '')}_${i}.jpg`;
    yield {
      path: `photographs/${stamp.slice(0, 4)}/${stamp.slice(5, 7)}/${name}`,
      contents: darkroom.photograph(
        `${seed} photograph ${i}`,
        at,
        life.chance.pick(life.places),
        width,
        Math.round(width * 0.75),
      ),
      modified: at,
    };
  }
}

/** Hummed tunes: PCM sound in WAVE files. */
function* voiceNotes(life: Life, count: number): Generator<NewFile> {
  const rate = 16_000;
  for (let i = 1; i <= count; i++) {
    const pitch = life.chance.whole(110, 330);
    const samples = new Int16Array(rate * life.chance.whole(3, 14));
    for (let s = 0; s < samples.length; s++) {
      const swell = Math.sin((s / samples.length) * Math.PI);
      samples[s] = Math.sin((s / rate) * pitch * 2 * Math.PI) * 9000 * swell;
    }
    const wave = new wavefile.WaveFile();
    wave.fromScratch(1, rate, '16', samples);
    yield {
      path: `voice-notes/${String(i).padStart(3, '0')}.wav`,
      contents: wave.toBuffer(),
      modified: moment(life),
    };
  }
}

const APPLICATIONS = [
  'tansy',
  'corbel',
  'pocket-garden',
  'tide-table',
  'bus-times',
  'crossword',
] as const;

/** Application data, settings, health and the rest: records in JSON and plain text. */
function* records(life: Life, others: number): Generator<NewFile> {
  const json = (path: string, value: unknown): NewFile => ({
    path,
    contents: `${JSON.stringify(value, null, 2)}\n`,
    modified: moment(life),
  });
  for (const name of APPLICATIONS) {
    yield json(`applications/${name}/settings.json`, { theme: life.chance.pick(['day', 'night']) });
    for (let i = 1; i <= others; i++) {
      yield json(`applications/${name}/data/${String(i).padStart(4, '0')}.json`, {
        score: life.chance.whole(0, 99_000),
        with: life.chance.pick(life.people).email,
        note: sentence(life),
      });
    }
  }
  for (let i = 1; i <= others * 3; i++) {
    yield json(`health/${String(i).padStart(4, '0')}.json`, {
      at: moment(life).toISOString(),
      steps: life.chance.whole(300, 18_000),
      pulse: life.chance.whole(48, 132),
    });
  }
  for (let i = 1; i <= others; i++) {
    yield json(`saved-passwords/site-${i}.json`, {
      site: `site-${i}.example.com`,
      user: life.owner.email,
      password: life.chance.bytes(9).toString('base64url'),
    });
    yield json(`settings/${String(i).padStart(3, '0')}.json`, { value: life.chance.whole(0, 100) });
    yield {
      path: `documents/letter-${String(i).padStart(3, '0')}.txt`,
      contents: `${paragraphs(life, life.chance.whole(3, 30))}\n`,
      modified: moment(life),
    };
  }
  for (let i = 1; i <= Math.ceil(others / 4); i++) {
    yield json(`web-history/${i}.json`, {
      visited: Array.from({ length: 80 }, () => ({
        at: moment(life).toISOString(),
        page: `https://www.example.com/${life.chance.bytes(4).toString('hex')}`,
      })),
    });
  }
  yield json('alarms/alarms.json', [
    { at: '06:40', days: 'weekdays' },
    { at: '08:30', days: 'Sunday' },
  ]);
}
