import { copyFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { completeCommit } from '../commit/commit.js';
import { lockArchive } from '../disk/lock.js';
import { diskFailure, syncFile, syncFolder } from '../disk/durable.js';
import {
  BAG_INFO,
  BAGIT,
  checkTags,
  MANIFEST,
  readManifest,
  TAG_MANIFEST,
  type Manifest,
} from '../format/bag.js';
import { PENDING } from '../format/layout.js';
import { listPayload, readArchiveId } from '../open/archive-folder.js';
import { checkAll } from '../verify/checking.js';
import { rename, rm, mkdirInside } from '../disk/medium.js';

export interface RepairReport {
  /** Names inside the bag, ours. */
  repaired: string[];
  /** Damaged here and missing or damaged there too. */
  stillDamaged: string[];
}

/**
 * Replaces what is damaged in an archive from another copy of it. What comes from there is compared with
 * this archive's own manifest before it takes its place; what is whole here is not touched.
 * @throws Failure `archive-of-another`, `archive-not-here`, `archive-in-use`, `archive-damaged` when the
 * manifest is damaged in both.
 */
export async function repairFrom(
  folder: string,
  other: string,
  threads = 2,
): Promise<RepairReport> {
  const locks = [await lockArchive(folder)];
  try {
    locks.push(await lockArchive(other));
    await completeCommit(folder);
    await requireSameArchive(folder, other);
    const repaired = await repairTags(folder, other);
    const manifest = await readManifest(folder);
    const damaged = await damagedOf(folder, manifest, [...manifest.keys()], threads);
    const candidates = damaged.filter((name) => manifest.has(name));
    const unfit = new Set(await damagedOf(other, manifest, candidates, threads));
    for (const name of candidates) {
      if (unfit.has(name)) continue;
      await replace(folder, other, name);
      repaired.push(name);
    }
    // What no manifest knows came from somewhere else.
    for (const name of await listPayload(folder)) {
      if (!manifest.has(name)) await rm(join(folder, name));
    }
    await syncFolder(folder);
    return { repaired, stillDamaged: candidates.filter((name) => unfit.has(name)) };
  } catch (error) {
    throw diskFailure(error);
  } finally {
    for (const lock of locks) await lock.release();
  }
}

async function requireSameArchive(folder: string, other: string): Promise<void> {
  const theirs = await readArchiveId(other);
  // Ours may be what is damaged.
  const ours = await readArchiveId(folder).catch(() => theirs);
  if (ours !== theirs) throw new Failure('archive-of-another');
}

/** @returns names of tag files that were replaced. */
async function repairTags(folder: string, other: string): Promise<string[]> {
  try {
    await checkTags(folder);
    return [];
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
  }
  await checkTags(other);
  const tags = [MANIFEST, TAG_MANIFEST, BAG_INFO, BAGIT];
  for (const name of tags) await replace(folder, other, name);
  return tags;
}

async function damagedOf(
  folder: string,
  manifest: Manifest,
  names: string[],
  threads: number,
): Promise<string[]> {
  const damaged: string[] = [];
  await checkAll({
    folder,
    key: null,
    threads,
    tasks: names.map((name) => ({ type: 'digest', name })),
    onResult: (task, { sha512 }) => {
      if (task.type === 'digest' && sha512 !== manifest.get(task.name)) damaged.push(task.name);
    },
  });
  return damaged.sort();
}

async function replace(folder: string, other: string, name: string): Promise<void> {
  const draft = join(folder, PENDING, 'repair');
  await mkdirInside(folder, join(folder, PENDING));
  await rm(draft, { force: true });
  await copyFile(join(other, name), draft);
  await syncFile(draft);
  await mkdirInside(folder, dirname(join(folder, name)));
  await rename(draft, join(folder, name));
  await syncFolder(dirname(join(folder, name)));
}
