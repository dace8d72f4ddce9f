import { renameSync } from 'node:fs';
import { mkdtemp, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { LinkError } from '@bright-cellar/device-link';
import { expect, test } from 'vitest';
import { entryOf } from './folder-index.js';
import { wholeOf } from './folder-reader.js';

const turn = () => new Promise((done) => setImmediate(done));

test('a small entry that another takes the place of while it is read is not passed off as it was', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'reader-'));
  const put = async (name: string, text: string) => writeFile(join(folder, name), text);
  try {
    const ends = new Map<string, number>();
    for (let round = 0; round < 240; round += 1) {
      await put('draft', 'as it was');
      await rename(join(folder, 'draft'), join(folder, 'note.md'));
      const entry = await entryOf(folder, 'note.md');
      await put('other', 'as it is!');
      // Both come within a millisecond, which is what a revision tells apart.
      await utimes(join(folder, 'other'), 1, 1);
      const reading = wholeOf({ folder, entry }, entry.revision).then(
        (contents) => contents.toString(),
        (error: unknown) => (error instanceof LinkError ? error.code : String(error)),
      );
      // Sooner and later: between any two steps of reading it.
      for (let turns = round % 12; turns > 0; turns -= 1) await turn();
      renameSync(join(folder, 'other'), join(folder, 'note.md'));
      const end = await reading;
      ends.set(end, (ends.get(end) ?? 0) + 1);
    }
    expect([...ends.keys()].toSorted()).toEqual(['as it was', 'changed']);
  } finally {
    await rm(folder, { recursive: true });
  }
});
