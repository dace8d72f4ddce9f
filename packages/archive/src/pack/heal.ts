import { join } from 'node:path';
import { isFinding } from '../disk/errors.js';
import { syncFile } from '../disk/durable.js';
import { entriesOf, type PackBlock } from '../format/chunk-index.js';
import { packName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { namesOf } from '../open/archive-contents.js';
import { packsThere, readBlocks } from '../open/blocks.js';
import { ChunkOpener } from '../open/chunk-opener.js';
import { collectGarbage } from '../tools/collect.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { FileChecker } from '../verify/check-file.js';
import { readProofs } from '../verify/proofs.js';
import { ChunkSealer } from './chunk-sealer.js';
import type { ChunkSet } from '../tools/chunk-set.js';
import type { PendingPacks } from './pending-packs.js';

/**
 * What a further backup mends of an archive by being taken: packs that are damaged give what is sound in them to new
 * packs and go; chunks that are lost count as unknown, so that a device that still has them brings them again; indexes
 * that are lost are written anew.
 */
export interface Healing {
  /** Payload files that go. */
  remove: string[];
  /** What stays, for the new index. */
  kept: PackBlock[];
}

/**
 * Learns what an archive holds, and mends on the way.
 * @param known gets every chunk that can be read
 * @param packs takes what is rescued out of damaged packs
 * @returns null where nothing has to be mended
 */
export async function learnAndHeal(options: {
  files: ArchiveFiles;
  roster: Roster;
  key: ArchiveKey;
  known: ChunkSet;
  packs: PendingPacks;
}): Promise<Healing | null> {
  const { files, roster, key, known, packs } = options;
  const { blocks, damagedIndexes, rebuilt } = await readBlocks(files, roster, key);
  const damaged = await damagedPacks(files, roster, blocks);
  const kept: PackBlock[] = [];
  const broken: PackBlock[] = [];
  for (const block of blocks) {
    if (damaged.has(packName(block.pack))) {
      broken.push(block);
      continue;
    }
    kept.push(block);
    for (const { id } of entriesOf(block)) known.add(id);
    known.grow();
  }
  for (const block of broken) await rescue(files, block, key, known, packs);
  const lost = namesOf('pack', [...roster.files.keys()]).filter((name) => damaged.has(name));
  if (lost.length + damagedIndexes.length + rebuilt.length === 0) return null;
  return { remove: [...lost, ...namesOf('index', [...roster.files.keys()])], kept };
}

/** Packs that are gone, or are not what was written: the last proof says which to look at. */
async function damagedPacks(
  files: ArchiveFiles,
  roster: Roster,
  blocks: readonly PackBlock[],
): Promise<Set<string>> {
  const damaged = new Set<string>();
  const there = await packsThere(files, roster);
  const readable = new Set(blocks.map(({ pack }) => packName(pack)));
  for (const name of namesOf('pack', [...roster.files.keys()])) {
    if (!readable.has(name) || !there.has(name)) damaged.add(name);
  }
  const proofs = (await readProofs(files)).filter(
    ({ level }) => level === 'bytes' || level === 'full',
  );
  const checker = new FileChecker(files, null);
  for (const name of proofs.at(-1)?.damagedFiles ?? []) {
    const facts = roster.files.get(name);
    if (!facts || !readable.has(name) || damaged.has(name)) continue;
    const { sha512 } = await checker.check({ type: 'digest', name });
    if (sha512 !== facts.sha512) damaged.add(name);
    await collectGarbage();
  }
  return damaged;
}

/** Seals what still opens of a damaged pack anew. */
async function rescue(
  files: ArchiveFiles,
  block: PackBlock,
  key: ArchiveKey,
  known: ChunkSet,
  packs: PendingPacks,
): Promise<void> {
  const opener = new ChunkOpener(files, [block.pack], key);
  const made: PackBlock[] = [];
  const sealer = new ChunkSealer(packs.folder, key, known, (pack) => made.push(pack));
  try {
    for (const { id, ...place } of entriesOf(block)) {
      try {
        sealer.add(await opener.open(id, { pack: 0, ...place }));
      } catch (error) {
        if (!isFinding(error)) throw error;
      }
    }
    sealer.closePack();
  } finally {
    sealer.giveUp();
    opener.close();
  }
  for (const pack of made) {
    await syncFile(join(packs.folder, `${pack.pack}.pack`));
    packs.record(pack);
  }
  packs.flush();
  known.grow();
  await collectGarbage();
}
