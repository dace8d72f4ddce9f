import { randomBytes } from 'node:crypto';
import { readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { entriesOf, type PackBlock } from '../format/chunk-index.js';
import { SealedReader } from '../format/sealed-file.js';
import { ArchiveKey } from '../keys/archive-key.js';
import { FolderFiles } from '../store/folder-files.js';
import { withFolder } from '../test-archives.js';
import { ChunkSealer } from './chunk-sealer.js';
import { ChunkSet } from '../tools/chunk-set.js';
import { PendingPacks } from './pending-packs.js';

const key = ArchiveKey.random();

/** What a run that was killed leaves: packs, some recorded and some not. */
function sealPacks(
  folder: string,
  count: number,
): { blocks: PackBlock[]; chunks: Map<string, Buffer> } {
  const known = new ChunkSet();
  known.grow();
  const blocks: PackBlock[] = [];
  const chunks = new Map<string, Buffer>();
  const sealer = new ChunkSealer(folder, key, known, (block) => blocks.push(block));
  for (let pack = 0; pack < count; pack++) {
    for (let n = 0; n < 4; n++) {
      const chunk = randomBytes(20_000 + n);
      chunks.set(sealer.add(chunk).toString('hex'), chunk);
    }
    sealer.closePack();
  }
  return { blocks, chunks };
}

async function takeUp(folder: string) {
  const found: PackBlock[] = [];
  const pending = await PendingPacks.takeUp(folder, key, (block) => found.push(block));
  return { pending, found };
}

async function gather(blocks: AsyncIterable<PackBlock>): Promise<PackBlock[]> {
  const all: PackBlock[] = [];
  for await (const block of blocks) all.push(block);
  return all;
}

/** Every chunk that the blocks speak of can be read where they say. */
async function expectReadable(
  folder: string,
  blocks: Iterable<PackBlock> | AsyncIterable<PackBlock>,
  chunks: Map<string, Buffer>,
): Promise<number> {
  let count = 0;
  for await (const block of blocks) {
    const files = new FolderFiles(folder);
    const reader = await SealedReader.open(files, `${block.pack}.pack`, 'pack', key);
    for (const { id, offset, stored, plain } of entriesOf(block)) {
      expect(await reader.readAt(offset, stored, plain)).toEqual(chunks.get(id.toString('hex')));
      count += 1;
    }
    reader.close();
  }
  return count;
}

describe('the packs of a run that was cut off', () => {
  test('are known again, recorded or not, and each once', async () => {
    await withFolder(async (folder) => {
      const { blocks, chunks } = sealPacks(folder, 3);
      const first = await takeUp(folder);
      // Before anything was recorded, all of them are read through.
      expect(first.found.map(({ pack }) => pack).sort()).toEqual(
        blocks.map(({ pack }) => pack).sort(),
      );
      first.pending.flush();
      first.pending.close();
      const second = await takeUp(folder);
      expect(second.found).toHaveLength(3);
      const all = await gather(second.pending.finish());
      expect(all.map(({ pack }) => pack).sort()).toEqual(blocks.map(({ pack }) => pack).sort());
      expect(await expectReadable(folder, all, chunks)).toBe(12);
    });
  });

  test('one that was cut in the middle keeps its whole chunks; its record is not believed', async () => {
    await withFolder(async (folder) => {
      const { blocks, chunks } = sealPacks(folder, 2);
      const first = await takeUp(folder);
      first.pending.flush();
      first.pending.close();
      const cut = blocks[0];
      if (!cut) throw new Error('no pack');
      truncateSync(join(folder, `${cut.pack}.pack`), cut.size - 25_000);
      const { pending, found } = await takeUp(folder);
      expect(found.map(({ pack }) => pack).sort()).toEqual(blocks.map(({ pack }) => pack).sort());
      const all = await gather(pending.finish());
      expect(await expectReadable(folder, all, chunks)).toBe(4 + 2);
      const now = all.find(({ pack }) => pack === cut.pack);
      expect(now?.size).toBe(readFileSync(join(folder, `${cut.pack}.pack`)).length);
    });
  });

  test('one with nothing whole in it goes, and one that is not there is not spoken of', async () => {
    await withFolder(async (folder) => {
      const { blocks } = sealPacks(folder, 2);
      const first = await takeUp(folder);
      first.pending.flush();
      first.pending.close();
      const [empty, gone] = blocks;
      truncateSync(join(folder, `${empty?.pack ?? ''}.pack`), 20);
      rmSync(join(folder, `${gone?.pack ?? ''}.pack`));
      const { pending, found } = await takeUp(folder);
      expect(found).toEqual([]);
      expect(readdirSync(folder).filter((name) => name.endsWith('.pack'))).toEqual([]);
      pending.close();
    });
  });

  test('records that are torn or are rubbish cost reading, and nothing else', async () => {
    await withFolder(async (folder) => {
      const { blocks, chunks } = sealPacks(folder, 3);
      const first = await takeUp(folder);
      first.pending.flush();
      first.pending.close();
      const [records = ''] = readdirSync(folder).filter((name) => name.endsWith('.index'));
      const whole = readFileSync(join(folder, records));
      writeFileSync(join(folder, records), whole.subarray(0, whole.length - 30));
      writeFileSync(join(folder, 'packs-7.index'), randomBytes(300));
      const { pending, found } = await takeUp(folder);
      expect(found).toHaveLength(blocks.length);
      expect(await expectReadable(folder, pending.finish(), chunks)).toBe(12);
    });
  });
});
