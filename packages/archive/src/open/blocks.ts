import { join } from 'node:path';
import { lstatSync } from 'node:fs';
import { Failure } from '@bright-cellar/core';
import {
  CHUNKS_IN_PACK_MAX,
  decodeBlocks,
  ENTRY_BYTES,
  writeEntry,
  type PackBlock,
} from '../format/chunk-index.js';
import { idOf, packName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import { SealedReader } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import { collectGarbage } from '../tools/collect.js';
import { namesOf } from './archive-folder.js';

/** Where every chunk of an archive lies, from its indexes and, where they do not say, from its packs. */
export interface Blocks {
  /** One for each pack, in no order. */
  blocks: PackBlock[];
  /** Indexes that are missing or cannot be read. */
  damagedIndexes: string[];
  /** Packs that no index speaks of: they were read through. */
  rebuilt: string[];
}

/**
 * Reads all indexes. An index that is damaged is left out, and the packs that only it knew are read through: whatever
 * opens in them is found again.
 */
export async function readBlocks(
  folder: string,
  roster: Roster,
  key: ArchiveKey,
  signal?: AbortSignal,
): Promise<Blocks> {
  const found: Blocks = { blocks: [], damagedIndexes: [], rebuilt: [] };
  const known = new Set<string>();
  for (const name of namesOf('index', [...roster.files.keys()])) {
    try {
      for (const block of blocksIn(join(folder, name), key)) {
        if (known.has(block.pack) || !roster.files.has(packName(block.pack))) continue;
        known.add(block.pack);
        found.blocks.push(block);
      }
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      found.damagedIndexes.push(name);
    }
  }
  for (const name of namesOf('pack', [...roster.files.keys()])) {
    const pack = idOf('pack', name) ?? '';
    if (known.has(pack)) continue;
    signal?.throwIfAborted();
    const facts = roster.files.get(name);
    const block = facts ? await readThrough(folder, pack, facts, key) : null;
    if (!block) continue;
    found.rebuilt.push(name);
    found.blocks.push(block);
  }
  return found;
}

/** The blocks of one index. @throws Failure `archive-damaged` */
export function* blocksIn(path: string, key: ArchiveKey): Generator<PackBlock> {
  const reader = new SealedReader(path, 'index', key);
  try {
    for (const frame of reader.frames()) yield* decodeBlocks(frame.plain);
  } finally {
    reader.close();
  }
}

/** What can be opened of a pack; null when nothing can. Its size and digest are those that it should have. */
async function readThrough(
  folder: string,
  pack: string,
  { size, sha512 }: { size: number; sha512: string },
  key: ArchiveKey,
): Promise<PackBlock | null> {
  const identifier = new ChunkIdentifier(key);
  const entries = Buffer.alloc(CHUNKS_IN_PACK_MAX * ENTRY_BYTES);
  let count = 0;
  try {
    const reader = new SealedReader(join(folder, packName(pack)), 'pack', key);
    try {
      for (const { offset, stored, plain } of reader.soundFrames()) {
        if (count === CHUNKS_IN_PACK_MAX) break;
        const entry = { id: identifier.idOf(plain), offset, stored, plain: plain.length };
        writeEntry(entries, count++ * ENTRY_BYTES, entry);
      }
    } finally {
      reader.close();
    }
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
  }
  await collectGarbage();
  return count === 0
    ? null
    : { pack, size, sha512, entries: Buffer.from(entries.subarray(0, count * ENTRY_BYTES)) };
}

/** Whether a pack is there with the length that it should have. */
export function isThere(folder: string, roster: Roster, pack: string): boolean {
  const name = packName(pack);
  const info = lstatSync(join(folder, name), { throwIfNoEntry: false });
  return info?.isFile() === true && info.size === roster.files.get(name)?.size;
}
