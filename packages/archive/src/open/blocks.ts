import { isFinding } from '../disk/errors.js';
import { decodeBlocks, EntryList, type PackBlock } from '../format/chunk-index.js';
import { idOf, packName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import { SealedReader } from '../format/sealed-file.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Files } from '../store/store.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import { collectGarbage } from '../tools/collect.js';
import { namesOf } from './archive-contents.js';

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
  files: Files,
  roster: Roster,
  key: ArchiveKey,
  signal?: AbortSignal,
): Promise<Blocks> {
  const found: Blocks = { blocks: [], damagedIndexes: [], rebuilt: [] };
  const known = new Set<string>();
  for (const name of namesOf('index', [...roster.files.keys()])) {
    try {
      for await (const block of blocksIn(files, name, key)) {
        if (known.has(block.pack) || !roster.files.has(packName(block.pack))) continue;
        known.add(block.pack);
        found.blocks.push(block);
      }
    } catch (error) {
      if (!isFinding(error)) throw error;
      found.damagedIndexes.push(name);
    }
  }
  for (const name of namesOf('pack', [...roster.files.keys()])) {
    const pack = idOf('pack', name) ?? '';
    if (known.has(pack)) continue;
    signal?.throwIfAborted();
    const facts = roster.files.get(name);
    const block = facts ? await readThrough(files, pack, facts, key) : null;
    if (!block) continue;
    found.rebuilt.push(name);
    found.blocks.push(block);
  }
  return found;
}

/** The blocks of one index. @throws Failure `archive-damaged` */
export async function* blocksIn(
  files: Files,
  name: string,
  key: ArchiveKey,
): AsyncGenerator<PackBlock> {
  const reader = await SealedReader.open(files, name, 'index', key);
  try {
    for await (const frame of reader.frames()) yield* decodeBlocks(frame.plain);
  } finally {
    reader.close();
  }
}

/** What can be opened of a pack; null when nothing can. Its size and digest are those that it should have. */
async function readThrough(
  files: Files,
  pack: string,
  { size, sha512 }: { size: number; sha512: string },
  key: ArchiveKey,
): Promise<PackBlock | null> {
  const identifier = new ChunkIdentifier(key);
  const entries = new EntryList();
  try {
    const reader = await SealedReader.open(files, packName(pack), 'pack', key);
    try {
      for await (const { offset, stored, plain } of reader.soundFrames()) {
        if (entries.isFull) break;
        entries.add({ id: identifier.idOf(plain), offset, stored, plain: plain.length });
      }
    } finally {
      reader.close();
    }
  } catch (error) {
    if (!isFinding(error)) throw error;
  }
  await collectGarbage();
  return entries.count === 0 ? null : { pack, size, sha512, entries: entries.bytes() };
}

/** Packs that are there with the length that they should have, by their names. */
export async function packsThere(files: ArchiveFiles, roster: Roster): Promise<Set<string>> {
  const there = await files.list('data/packs/');
  return new Set(
    there
      .filter(({ name, bytes }) => bytes !== null && bytes === roster.files.get(name)?.size)
      .map(({ name }) => name),
  );
}
