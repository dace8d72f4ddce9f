import { linkDeviceSchema } from '@bright-cellar/core';
import { expect, test } from 'vitest';
import { LinkError, SMALL_BYTES, SMALL_ENTRIES, type Entry } from './protocol.js';
import { readAhead } from './read-ahead.js';

const DEVICE = linkDeviceSchema.parse('device-1');
const LONG = SMALL_BYTES + 1;

const entry = (id: number, bytes = 5): Entry => ({
  ...{ id: `entry-${id}`, class: 'notes', group: '', format: null, kind: 'file' },
  ...{ path: `notes/${id}.md`, bytes, modified: '2026-01-02T03:04:05.000Z' },
  ...{ mode: null, revision: 'r1' },
});

/** Gives each its name, and breaks off before the one that is named. */
function deviceThat({ breaksAt = '', refuses = '' }) {
  const asked: string[][] = [];
  async function* readSmall(_device: unknown, entries: readonly Entry[]) {
    asked.push(entries.map(({ id }) => id));
    for (const { id } of entries) {
      if (id === breaksAt) throw new LinkError('no-answer');
      yield id === refuses ? null : Buffer.from(id);
    }
  }
  return { asked, readSmall };
}

async function read(
  link: ReturnType<typeof deviceThat>,
  entries: Entry[],
  want: (one: Entry) => Entry | null = (one) => one,
): Promise<[string, string | null][]> {
  const found: [string, string | null][] = [];
  for await (const { one, contents } of readAhead(link, DEVICE, entries, want))
    found.push([one.id, contents?.toString() ?? null]);
  return found;
}

test('all come in their order; what is long, unwanted, alone or refused comes without its contents', async () => {
  const link = deviceThat({ refuses: 'entry-3' });
  const entries = [entry(1), entry(2, LONG), entry(3), entry(4), entry(5)];
  expect(await read(link, entries, (one) => (one.id === 'entry-4' ? null : one))).toEqual([
    ['entry-1', 'entry-1'],
    ['entry-2', null],
    ['entry-3', null],
    ['entry-4', null],
    ['entry-5', 'entry-5'],
  ]);
  expect(link.asked).toEqual([['entry-1', 'entry-3', 'entry-5']]);
  expect(await read(link, [entry(1), entry(2, LONG)])).toEqual([
    ['entry-1', null],
    ['entry-2', null],
  ]);
});

test('many are asked for in turns, and a break in the middle loses none', async () => {
  const link = deviceThat({ breaksAt: 'entry-70' });
  const many = Array.from({ length: SMALL_ENTRIES * 2 + 2 }, (_, number) => entry(number));
  const found = await read(link, many);
  expect(found.map(([id]) => id)).toEqual(many.map(({ id }) => id));
  const without = found.filter(([, contents]) => contents === null).map(([id]) => id);
  expect(without).toEqual(many.slice(70, SMALL_ENTRIES * 2).map(({ id }) => id));
  expect(link.asked.map(({ length }) => length)).toEqual([SMALL_ENTRIES, SMALL_ENTRIES, 2]);
});
