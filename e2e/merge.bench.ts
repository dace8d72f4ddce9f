import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { expect, test } from 'vitest';
import {
  asked,
  plannedMerge,
  samePersons,
  understood,
  type Held,
  type Merging,
  type MergedKind,
  type MergedRecords,
} from '@bright-cellar/core/merge';

/**
 * `npm run bench:merge`: 20,000 contacts and 50,000 events against as many, kept in step before and never before, beside writing
 * the same records as JSON and reading them again; and in the thread that the work process uses for it.
 */
const CONTACTS = 20_000;
const EVENTS = 50_000;

const contact = (n: number): MergedRecords['contacts'] => ({
  ...{ name: `Given${n % 977} Family${n}`, numbers: [`+44 77${String(n).padStart(8, '0')}`] },
  ...{ emails: [`p${n}@post.example`], addresses: [], birthday: '', note: '', picture: null },
  organisation: n % 3 === 0 ? `Mill ${n % 50}` : '',
});
const day = (n: number) => `2026-03-${String(1 + (n % 28)).padStart(2, '0')}`;
const event = (n: number): MergedRecords['events'] => ({
  ...{ uid: `e${n}`, title: `Event ${n}`, place: 'Hall', notes: '', alarms: [15] },
  start: { wall: `${day(n)}T09:00:00`, zone: 'Europe/London' },
  end: { wall: `${day(n)}T10:00:00`, zone: 'Europe/London' },
  ...{ rule: n % 10 === 0 ? 'FREQ=WEEKLY' : null, also: [], without: [], instead: null },
});

interface Case<T> {
  device: Held<T>[];
  partner: Held<T>[];
  remembered: { ids: { device: string; partner: string }; base: { device: T; partner: T } }[];
}
/** One in twenty is changed here, one in thirty there. */
function made<T>(count: number, of: (n: number) => T, here: object, there: object): Case<T> {
  const all = Array.from({ length: count }, (_, n) => n);
  const held = (side: string, every: number, change: object) =>
    all.map((n) => ({
      ...{ id: `${side}${n}`, changedAt: null },
      record: n % every === 0 ? { ...of(n), ...change } : of(n),
    }));
  return {
    ...{ device: held('d', 20, here), partner: held('p', 30, there) },
    remembered: all.map((n) => ({
      ids: { device: `d${n}`, partner: `p${n}` },
      base: { device: of(n), partner: of(n) },
    })),
  };
}

const seconds = (work: () => unknown): number => {
  const began = performance.now();
  work();
  return (performance.now() - began) / 1000;
};
const merged = <Kind extends MergedKind>(kind: Kind, of: Case<MergedRecords[Kind]>) =>
  plannedMerge(kind, { ...of, direction: 'both', rule: 'ask' });

/** As the work process does it: in a thread of its own, with all that goes there and comes back. Needs what was built. */
async function inThread<Kind extends MergedKind>(
  kind: Kind,
  of: Case<MergedRecords[Kind]>,
): Promise<void> {
  const way = { direction: 'both', rule: 'ask', without: [] } as const;
  const letters = { device: {}, partner: {} };
  const merging: Merging = { kind, ...of, way, decisions: new Map(), joins: [], letters };
  const worker = new Worker(
    new URL('../packages/server/dist/threads/merging-thread.js', import.meta.url),
    { workerData: asked(merging) },
  );
  const [text] = (await once(worker, 'message')) as [string];
  understood(merging, text);
}

test('two sides are merged', async () => {
  const contacts = made(CONTACTS, contact, { note: 'a' }, { birthday: '1984-03-07' });
  const events = made(EVENTS, event, { title: 'x' }, { place: 'y' });
  const lines: string[] = [];
  for (let round = 0; round < 3; round += 1) {
    const json = seconds(() => JSON.parse(JSON.stringify([contacts, events])) as unknown);
    const before = seconds(() => [merged('contacts', contacts), merged('events', events)]);
    const anew = seconds(() => [
      merged('contacts', { ...contacts, remembered: [] }),
      merged('events', { ...events, remembered: [] }),
    ]);
    const began = performance.now();
    await Promise.all([inThread('contacts', contacts), inThread('events', events)]);
    const thread = (performance.now() - began) / 1000;
    const persons = seconds(() => samePersons(contacts.device.map(({ record }) => record)));
    const ratio = (time: number) => `${time.toFixed(2)} s, ${(time / json).toFixed(2)} × JSON`;
    lines.push(
      `in step before: ${ratio(before)}; never before: ${ratio(anew)}; in threads, with all copies and who may be the same person: ${ratio(thread)}; same persons of ${CONTACTS}: ${ratio(persons)}; JSON: ${json.toFixed(2)} s`,
    );
  }
  process.stderr.write(`${lines.join('\n')}\n`);
  expect(lines).toHaveLength(3);
});
