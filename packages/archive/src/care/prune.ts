import { join } from 'node:path';
import { Failure, type ArchiveState } from '@bright-cellar/core';
import { commitChange, noChange, type Change } from '../commit/commit.js';
import { diskFailure, syncFile } from '../disk/durable.js';
import { encodeBlock, entriesOf, type PackBlock } from '../format/chunk-index.js';
import { indexName, packName, PENDING } from '../format/layout.js';
import { SealedWriter } from '../format/sealed-file.js';
import { namesOf } from '../open/archive-contents.js';
import { readBlocks } from '../open/blocks.js';
import type { OpenArchive } from '../open/open-archive.js';
import { ChunkSealer } from '../pack/chunk-sealer.js';
import { ChunkSet } from '../tools/chunk-set.js';
import { resealChunks } from './reseal.js';
import { rm, mkdirInside } from '../disk/medium.js';

const WORK = 'prune';
/** A pack is written anew when more than this share of it is of no use to anybody. */
const WASTE = 0.02;

export interface PruneOptions {
  onProgress?: (bytes: number) => void;
  /** Runs when all is on the medium, and nothing has been decided yet. */
  beforeDeciding?: (state: ArchiveState) => Promise<void>;
  signal?: AbortSignal;
}

export interface PruneResult {
  removedBackups: string[];
  /** Bytes that the payload has become smaller. */
  freedBytes: number;
}

/**
 * Removes backups and gives their space back. The others are not touched: chunks that they share stay,
 * in packs that are written anew where much of them is of no use any more.
 * @param keep ids of the backups that stay; at least one.
 * @throws Failure `not-found` for an id that is none, `archive-damaged` when a list or pack that is needed
 * cannot be read, `rack-full`. The archive is as it was then.
 */
export async function pruneArchive(
  archive: OpenArchive,
  keep: readonly string[],
  options: PruneOptions = {},
): Promise<PruneResult> {
  const ids = [...archive.roster.backups.keys()];
  const unknown = keep.find((id) => !ids.includes(id));
  if (unknown !== undefined || keep.length === 0) {
    throw new Failure('not-found', { what: 'That is no backup of this archive.' });
  }
  const removedBackups = ids.filter((id) => !keep.includes(id));
  const { backups } = archive.roster;
  const listsGone = removedBackups.map((id) => backups.get(id)?.list ?? '');
  try {
    const { live, count } = await liveChunks(archive, keep);
    const { blocks } = await readBlocks(archive.files, archive.roster, archive.key, options.signal);
    mustCover(live, count, blocks);
    const { root } = await archive.files.work();
    const work = join(root, PENDING, WORK);
    await rm(work, { recursive: true, force: true });
    await mkdirInside(root, work);
    const { kept, rewritten, gone } = await sortPacks(archive, blocks, live, work, options);
    const change: Change = {
      ...noChange([WORK]),
      add: rewritten.map((block) => ({
        from: `${PENDING}/${WORK}/${block.pack}.pack`,
        to: packName(block.pack),
        facts: { size: block.size, sha512: block.sha512 },
      })),
      remove: [
        ...listsGone,
        ...gone.map(({ pack }) => packName(pack)),
        ...namesOf('index', archive.names),
      ],
    };
    const index = new SealedWriter(join(work, 'chunks.index'), 'index', archive.key);
    for (const block of [...kept, ...rewritten]) index.append(encodeBlock(block));
    const facts = index.finish();
    for (const { from } of change.add) await syncFile(join(root, from));
    await syncFile(index.path);
    const to = indexName(index.id.toString('hex'));
    change.add.push({ from: `${PENDING}/${WORK}/chunks.index`, to, facts });
    options.signal?.throwIfAborted();
    await commitChange(archive, change, options.beforeDeciding);
    const sum = (some: PackBlock[]) => some.reduce((bytes, { size }) => bytes + size, 0);
    return { removedBackups, freedBytes: sum(gone) - sum(rewritten) };
  } catch (error) {
    throw diskFailure(error);
  }
}

/**
 * What pruning would free, as near as it can be told without writing: bytes of the payload.
 * @param keep ids of the backups that would stay
 */
export async function weighPruning(
  archive: OpenArchive,
  keep: readonly string[],
  signal?: AbortSignal,
): Promise<number> {
  const { live } = await liveChunks(archive, keep);
  const { blocks } = await readBlocks(archive.files, archive.roster, archive.key, signal);
  return blocks.reduce((freed, block) => {
    const useful = [...entriesOf(block)]
      .filter(({ id }) => live.has(id))
      .reduce((sum, { stored }) => sum + stored, 0);
    return useful >= block.size * (1 - WASTE) ? freed : freed + block.size - useful;
  }, 0);
}

async function liveChunks(archive: OpenArchive, keep: readonly string[]) {
  const live = new ChunkSet();
  live.grow();
  let count = 0;
  for (const backup of keep) {
    for await (const { chunks } of archive.items(backup)) {
      for (let at = 0; at < chunks.length; at += 32) {
        if (live.add(chunks.subarray(at, at + 32))) count += 1;
      }
      live.grow();
    }
  }
  return { live, count };
}

/** Here a chunk that nobody can find is no small matter: the archive would be written anew without it. */
function mustCover(live: ChunkSet, count: number, blocks: readonly PackBlock[]): void {
  const found = new ChunkSet();
  found.grow();
  let covered = 0;
  for (const block of blocks) {
    for (const { id } of entriesOf(block)) if (live.has(id) && found.add(id)) covered += 1;
    found.grow();
  }
  if (covered < count) throw new Failure('archive-damaged');
}

async function sortPacks(
  archive: OpenArchive,
  blocks: PackBlock[],
  live: ChunkSet,
  work: string,
  { onProgress, signal }: { onProgress?: (bytes: number) => void; signal?: AbortSignal },
) {
  const kept: PackBlock[] = [];
  const gone: PackBlock[] = [];
  const rewritten: PackBlock[] = [];
  const written = new ChunkSet();
  written.grow();
  const sealer = new ChunkSealer(work, archive.key, written, (block) => rewritten.push(block));
  try {
    for (const block of blocks) {
      const useful = [...entriesOf(block)].filter(({ id }) => live.has(id));
      const usefulBytes = useful.reduce((sum, { stored }) => sum + stored, 0);
      if (useful.length > 0 && usefulBytes >= block.size * (1 - WASTE)) kept.push(block);
      else {
        gone.push(block);
        await resealChunks(archive, block, useful, sealer, { signal });
        // The old pack goes: nothing that somebody needs may be in it alone.
        if (!useful.every(({ id }) => written.has(id))) throw new Error('a chunk was left behind');
        written.grow();
      }
      onProgress?.(block.size);
    }
    sealer.closePack();
  } finally {
    sealer.giveUp();
  }
  return { kept, gone, rewritten };
}
