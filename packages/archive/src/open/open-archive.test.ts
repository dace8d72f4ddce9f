import { renameSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { decodeLines, type BackupEnd, type BackupLine } from '../format/backup-lines.js';
import { entriesOf, type PackBlock } from '../format/chunk-index.js';
import { ListWriter } from '../format/list-writer.js';
import { SealedReader } from '../format/sealed-file.js';
import { opened, pack, refusal, withFolder, writeTree } from '../test-archives.js';
import { listOf } from './backup-list.js';
import { blocksIn } from './blocks.js';
import { ChunkOpener } from './chunk-opener.js';
import { namesOf } from './archive-contents.js';
import type { OpenArchive } from './open-archive.js';

/** An archive of one backup with a few different files, open. */
const withOne = (use: (open: OpenArchive, backup: string, folder: string) => Promise<void>) =>
  withFolder(async (folder) => {
    const source = join(folder, 'source');
    await writeTree(source, {
      'notes/one.txt': 'the first note',
      'notes/two.txt': 'another of these',
      'notes/three.txt': 'and the last one',
    });
    const { backup } = await pack(source, join(folder, 'archive'));
    const archive = join(folder, 'archive');
    await opened(archive, (open) => use(open, backup, archive));
  });

test('a chunk is what its id says, wherever an index sends a reader', async () => {
  await withOne(async (open) => {
    const [index = ''] = namesOf('index', open.names);
    const blocks: PackBlock[] = [];
    for await (const one of blocksIn(open.files, index, open.key)) blocks.push(one);
    const [block] = blocks;
    if (!block) throw new Error('an index without a pack');
    const entries = [...entriesOf(block)].map((entry) => ({ ...entry, id: Buffer.from(entry.id) }));
    expect(entries.length).toBeGreaterThanOrEqual(3);
    const opener = new ChunkOpener(open.files, [block.pack], open.key);
    try {
      for (const [n, { id }] of entries.entries()) {
        for (const [m, { offset, stored, plain }] of entries.entries()) {
          const read = () => opener.open(id, { pack: 0, offset, stored, plain });
          // Each is whole and authentic: only its id tells that it is another.
          expect(await refusal(read()), `${n} at the place of ${m}`).toBe(
            n === m ? 'none' : 'archive-damaged',
          );
        }
      }
    } finally {
      opener.close();
    }
  });
});

describe('a list that somebody with the key wrote anew', () => {
  /** The list with another end in its place. */
  async function withEnd(
    folder: string,
    open: OpenArchive,
    backup: string,
    change: Partial<BackupEnd>,
  ) {
    const list = listOf(open.names, backup);
    const path = join(folder, list);
    const lines: BackupLine[] = [];
    const reader = await SealedReader.open(open.files, list, 'backup', open.key);
    for await (const { plain } of reader.frames()) lines.push(...decodeLines(plain));
    reader.close();
    const writer = new ListWriter(`${path}.new`, open.key);
    for (const line of lines) writer.add(line.type === 'end' ? { ...line, ...change } : line);
    writer.finish();
    renameSync(`${path}.new`, path);
  }
  const readThrough = (open: OpenArchive, backup: string) =>
    refusal(
      (async () => {
        for await (const _ of open.list(backup));
      })(),
    );

  test.each<[string, Partial<BackupEnd>]>([
    ['items', { items: 99 }],
    ['bytes', { bytes: 1 }],
    ['failed', { failed: 1 }],
  ])('and whose end counts other %s than came before it is damaged', async (_, change) => {
    await withOne(async (open, backup, folder) => {
      await withEnd(folder, open, backup, {});
      expect(await readThrough(open, backup)).toBe('none');
      await withEnd(folder, open, backup, change);
      expect(await readThrough(open, backup)).toBe('archive-damaged');
    });
  });
});
