import { Failure } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';
import { diskFailure } from '../disk/durable.js';
import {
  BAG_INFO,
  BAGIT,
  checkTags,
  MANIFEST,
  readManifest,
  TAG_MANIFEST,
  type Manifest,
} from '../format/bag.js';
import { listPayload, readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { piecesOf } from '../store/read.js';
import { checkAll } from '../verify/checking.js';
import { orFailure } from '../tools/or-failure.js';

export interface RepairReport {
  /** Names inside the bag, ours. */
  repaired: string[];
  /** Damaged here and missing or damaged there too. */
  stillDamaged: string[];
}

export interface RepairOptions {
  /** 0: in this thread. */
  threads?: number;
  /** Bytes that were read of this copy. */
  onProgress?: (bytes: number) => void;
  signal?: AbortSignal;
}

/**
 * Replaces what is damaged in an archive from another copy of it. What comes from there is compared with
 * this archive's own manifest before it takes its place; what is whole here is not touched.
 * @throws Failure `archive-of-another`, `archive-not-here`, `archive-in-use`, `archive-damaged` when the
 * manifest is damaged in both.
 */
export async function repairFrom(
  files: ArchiveFiles,
  other: ArchiveFiles,
  options: RepairOptions = {},
): Promise<RepairReport> {
  const leases = [await files.lease('exclusive')];
  try {
    leases.push(await other.lease('shared'));
    await requireSameArchive(files, other);
    const repaired = await repairTags(files, other);
    const manifest = await readManifest(files);
    const candidates = await damagedOf(files, manifest, [...manifest.keys()], options);
    const unfit = new Set(
      await damagedOf(other, manifest, candidates, { ...options, onProgress: () => undefined }),
    );
    for (const name of candidates) {
      if (unfit.has(name)) continue;
      options.signal?.throwIfAborted();
      await files.put(name, piecesOf(other, name), 'over');
      repaired.push(name);
    }
    // What no manifest knows came from somewhere else.
    for (const { name } of await listPayload(files)) {
      if (!manifest.has(name)) await files.remove(name);
    }
    return { repaired, stillDamaged: candidates.filter((name) => unfit.has(name)) };
  } catch (error) {
    throw diskFailure(error);
  } finally {
    for (const lease of leases) await lease.release();
  }
}

async function requireSameArchive(files: ArchiveFiles, other: ArchiveFiles): Promise<void> {
  const theirs = await readArchiveId(other);
  // Ours may be what is damaged.
  const ours = await orFailure(() => readArchiveId(files));
  if (!(ours instanceof Failure) && ours !== theirs) throw new Failure('archive-of-another');
}

/** @returns names of tag files that were replaced. */
async function repairTags(files: ArchiveFiles, other: ArchiveFiles): Promise<string[]> {
  try {
    await checkTags(files);
    return [];
  } catch (error) {
    if (!isFinding(error)) throw error;
  }
  await checkTags(other);
  const tags = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT];
  for (const name of tags) await files.put(name, piecesOf(other, name), 'over');
  return tags;
}

async function damagedOf(
  files: ArchiveFiles,
  manifest: Manifest,
  names: string[],
  { threads = 2, onProgress, signal }: RepairOptions,
): Promise<string[]> {
  const damaged: string[] = [];
  await checkAll({
    files,
    key: null,
    threads,
    signal,
    tasks: names.map((name) => ({ type: 'digest', name })),
    onResult: (task, { sha512, size }) => {
      onProgress?.(size);
      if (task.type === 'digest' && sha512 !== manifest.get(task.name)) damaged.push(task.name);
    },
  });
  return damaged.sort();
}
