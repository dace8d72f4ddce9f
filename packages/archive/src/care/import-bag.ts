import { copyFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { lockArchive } from '../disk/lock.js';
import { stagingFolder } from '../commit/pending.js';
import { diskFailure, renameDurably, syncFile, syncFolder } from '../disk/durable.js';
import { BAG_INFO, BAGIT, MANIFEST, readManifest, TAG_MANIFEST } from '../format/bag.js';
import { payloadFolders } from '../format/layout.js';
import { readArchiveId } from '../open/archive-folder.js';
import { verifySealed, type VerifyOptions } from '../verify/verify.js';
import { mkdir, rm } from '../disk/medium.js';

/**
 * Copies an archive's folder, whatever it is called, to a place of its own. Checked before, and the copy
 * read back and compared after: only then has it its name.
 * @throws Failure `already-exists`, `archive-damaged`, `archive-format-unknown`, `archive-not-here`,
 * `rack-full`, `rack-not-here`.
 */
export async function importBag(
  from: string,
  folder: string,
  options: Omit<VerifyOptions, 'level'> = {},
): Promise<{ archive: string; storedBytes: number }> {
  const archive = await readArchiveId(from);
  await requireWhole(from, options);
  await mkdir(dirname(folder), { recursive: true });
  const lock = await lockArchive(folder);
  const staging = stagingFolder(folder);
  try {
    const there = await readArchiveId(folder).catch(() => null);
    if (there !== null) throw new Failure('already-exists');
    await rm(staging, { recursive: true, force: true });
    for (const parent of payloadFolders) await mkdir(join(staging, parent), { recursive: true });
    const tags = [BAG_INFO, BAGIT, MANIFEST, TAG_MANIFEST];
    for (const name of [...(await readManifest(from)).keys(), ...tags]) {
      options.signal?.throwIfAborted();
      await copyFile(join(from, name), join(staging, name));
      await syncFile(join(staging, name));
    }
    for (const parent of [...payloadFolders, 'data', '.']) await syncFolder(join(staging, parent));
    const { storedBytes } = await requireWhole(staging, options);
    await renameDurably(staging, folder);
    return { archive, storedBytes };
  } catch (error) {
    await rm(staging, { recursive: true, force: true });
    throw diskFailure(error);
  } finally {
    await lock.release();
  }
}

async function requireWhole(folder: string, options: Omit<VerifyOptions, 'level'>) {
  const report = await verifySealed(folder, { ...options, level: 'bytes' });
  if (!report.whole) {
    const [first] = report.damagedFiles;
    throw new Failure('archive-damaged', {
      what: `“${first ?? 'data'}” is missing or is not what was written.`,
      safe: 'Nothing was taken in.',
    });
  }
  return report;
}
