import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { Operation } from '@bright-cellar/contract';
import type { Estimate } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { Api, resultOf } from './api.js';
import { startTestProduct } from './product.js';

/**
 * `npm run bench:estimates`: how well sizes and times are foretold. Devices of many shapes and links, and
 * plans for them, one after the other as a shop sees them; each is estimated, then really taken through the
 * whole product, and what was foretold is set beside what came. `ESTIMATES=60` for fewer.
 */
const COUNT = Number(process.env.ESTIMATES ?? 200);

/** A random number between, evenly by its logarithm: small and large are as likely. */
const between = (low: number, high: number) =>
  Math.exp(Math.log(low) + Math.random() * Math.log(high / low));
const pick = <T>(from: readonly T[]): T => from[Math.floor(Math.random() * from.length)] as T;

const WORDS =
  'quay ferry kettle orchard lantern moss gull harbour tide bread key rain bench supper children road letter garden coat bus table morning'.split(
    ' ',
  );
function words(bytes: number): string {
  const text: string[] = [];
  for (let length = 0; length < bytes;) {
    const word = pick(WORDS);
    text.push(word);
    length += word.length + 1;
  }
  return text.join(' ').slice(0, bytes);
}
const records = (bytes: number) => {
  let text = '';
  while (text.length < bytes)
    text += `${JSON.stringify({ at: Date.now() - Math.floor(Math.random() * 1e11), from: randomBytes(6).toString('hex'), text: words(60) })}\n`;
  return text.slice(0, bytes);
};

/** What one class of a device is made of. */
const shapes: Record<string, (bytes: number) => string | Buffer> = {
  photographs: (bytes) => randomBytes(bytes),
  videos: (bytes) => randomBytes(bytes),
  documents: (bytes) => (Math.random() < 0.5 ? words(bytes) : randomBytes(bytes)),
  messages: records,
  notes: words,
  applications: (bytes) => (Math.random() < 0.6 ? records(bytes) : randomBytes(bytes)),
  health: records,
};
const endings: Record<string, string> = { photographs: 'jpg', videos: 'mp4', messages: 'jsonl' };

/** A device of some shape: which classes, how many items, how large, how much of it twice. */
function fill(folder: string): void {
  for (const [name, make] of Object.entries(shapes)) {
    if (Math.random() < 0.3) continue;
    const items = Math.round(between(2, 60));
    const typical =
      name === 'videos' ? between(2e5, 3e6) : between(300, name === 'photographs' ? 8e5 : 6e4);
    const twice = Math.random() < 0.25 ? Math.random() * 0.4 : 0;
    let last: string | Buffer = '';
    for (let i = 0; i < items; i++) {
      const contents: string | Buffer =
        last !== '' && Math.random() < twice ? last : make(Math.round(typical * between(0.3, 3)));
      last = contents;
      const path = join(folder, name, `${i}.${endings[name] ?? 'txt'}`);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, contents);
    }
  }
  mkdirSync(join(folder, 'notes'), { recursive: true });
  writeFileSync(join(folder, 'notes/last.txt'), words(2000));
}

const median = (values: number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
const percent = (share: number) => `${(share * 100).toFixed(1)} %`;

test('estimates beside what came', async () => {
  const product = await startTestProduct({ only: [] });
  const api = await Api.signedIn(product);
  const source = mkdtempSync(join(tmpdir(), 'cellar-estimates-'));
  const found: { estimate: Estimate; stored: number; ms: number }[] = [];
  try {
    for (let n = 0; n < COUNT; n++) {
      const folder = join(source, String(n));
      fill(folder);
      const device = await product.plugFolder(folder, 1);
      const rate = Math.round(between(1.5e6, 4e7));
      await product.press(device.facts.id, {
        do: 'faults',
        faults: { rate, latencyMs: pick([0, 0, 3, 12]) },
      });
      const scope = pick([
        { mode: 'everything', choice: {} },
        { mode: 'everything', choice: {} },
        { mode: 'quick', choice: {} },
        {
          mode: 'chosen',
          choice: { notes: true, messages: true, photographs: Math.random() < 0.7 },
        },
      ]);
      const ticket = await api.openTicket(device.facts.id);
      await api.post(`/api/tickets/${ticket}/costs`, { ...scope, encrypted: true });
      const started = await api.startBackup(ticket, scope);
      const ended: Operation = await api.ended(started.body.id, 300_000);
      const { estimate } = ended;
      if (estimate && ended.state === 'done') {
        const result = resultOf(ended, 'backup');
        found.push({
          estimate,
          stored: result.storedBytes,
          ms: result.durationMs,
        });
      }
      await product.press(device.facts.id, { do: 'pull-cable' });
      rmSync(folder, { recursive: true, force: true });
    }
  } finally {
    await product.stop();
    rmSync(source, { recursive: true, force: true });
  }
  const line = (
    name: string,
    actual: (f: (typeof found)[number]) => number,
    range: (e: Estimate) => Estimate['ms'],
  ) => {
    const errors = found.map((f) => Math.abs(actual(f) / range(f.estimate).likely - 1));
    const within = found.filter(
      (f) => actual(f) >= range(f.estimate).low && actual(f) <= range(f.estimate).high,
    );
    const wide = found.map((f) => range(f.estimate).high / range(f.estimate).low - 1);
    process.stdout.write(
      `${name}: median error ${percent(median(errors))}, 90th of 100 ${percent([...errors].sort((a, b) => a - b)[Math.floor(errors.length * 0.9)] ?? 0)}; within the 80 % range ${percent(within.length / found.length)}; the range is ${percent(median(wide))} wide\n`,
    );
  };
  process.stdout.write(`\n${found.length} devices and plans\n`);
  line(
    'size on the rack',
    (f) => f.stored,
    (e) => e.stored,
  );
  line(
    'time',
    (f) => f.ms,
    (e) => e.ms,
  );
  expect(found.length).toBe(COUNT);
});
