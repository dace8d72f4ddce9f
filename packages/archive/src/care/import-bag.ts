import { open } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { discardUnfinished } from '../commit/pending.js';
import { diskFailure, syncFolder } from '../disk/durable.js';
import { mkdirInside, rm } from '../disk/medium.js';
import {
  BAG_INFO,
  BAGIT,
  damagedFile,
  MANIFEST,
  readManifest,
  TAG_MAX_BYTES,
  TAG_MANIFEST,
  type Manifest,
} from '../format/bag.js';
import { isPayloadName, PENDING } from '../format/layout.js';
import { readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { FolderFiles } from '../store/folder-files.js';
import { piecesOf } from '../store/read.js';
import { FileChecker } from '../verify/check-file.js';
import { verifySealed, type VerifyOptions } from '../verify/verify.js';

const WORK = 'import';

/**
 * Copies an archive, whatever it is called, to a place of its own. Checked before, and the copy
 * read back and compared after: only then has it its name.
 * @throws Failure `already-exists`, `archive-damaged`, `archive-format-unknown`, `archive-not-here`,
 * `rack-full`, `rack-not-here`.
 */
export async function importBag(
  from: ArchiveFiles,
  to: ArchiveFiles,
  options: Omit<VerifyOptions, 'level'> = {},
): Promise<{ archive: string; storedBytes: number }> {
  const archive = await readArchiveId(from);
  const { storedBytes } = await requireWhole(from, options);
  const lease = await to.lease('exclusive');
  try {
    const work = await to.work();
    if (!work.isNew) throw new Failure('already-exists');
    const { root } = work;
    try {
      await rm(join(root, PENDING, WORK), { recursive: true, force: true });
      await mkdirInside(dirname(root), join(root, PENDING, WORK), { mode: 0o700 });
      const manifest = await readManifest(from);
      const add = await copyPayload(from, manifest, root, options.signal);
      const tags = new Map<string, string>();
      for (const name of [BAG_INFO, BAGIT, MANIFEST, TAG_MANIFEST]) {
        tags.set(name, String(await from.read(name, TAG_MAX_BYTES)));
      }
      await to.swap({ from: null, add, tags, remove: [], work: [WORK] }, () =>
        compare(root, add, manifest),
      );
    } catch (error) {
      await discardUnfinished(work, WORK);
      throw error;
    }
    return { archive, storedBytes };
  } catch (error) {
    throw diskFailure(error);
  } finally {
    await lease.release();
  }
}

/** Copies every payload file below the work's folder, and syncs it. */
async function copyPayload(
  from: ArchiveFiles,
  manifest: Manifest,
  root: string,
  signal: AbortSignal | undefined,
): Promise<{ from: string; to: string }[]> {
  const add = [...manifest.keys()].map((name) => {
    if (!isPayloadName(name)) throw damagedFile(name);
    return { from: name.replace(/^data/, `${PENDING}/${WORK}`), to: name };
  });
  for (const { from: draft, to } of add) {
    signal?.throwIfAborted();
    await mkdirInside(root, dirname(join(root, draft)), { mode: 0o700 });
    const file = await open(join(root, draft), 'wx', 0o600);
    try {
      for await (const piece of piecesOf(from, to)) await file.writeFile(piece);
      await file.datasync();
    } finally {
      await file.close();
    }
  }
  await syncFolder(join(root, PENDING, WORK));
  await syncFolder(join(root, PENDING));
  return add;
}

/** What was copied, as it is read back. */
async function compare(
  root: string,
  added: readonly { from: string; to: string }[],
  manifest: Manifest,
): Promise<void> {
  const checker = new FileChecker(new FolderFiles(root), null);
  for (const { from, to } of added) {
    const { sha512 } = await checker.check({ type: 'digest', name: from });
    if (sha512 !== manifest.get(to)) throw notTakenIn(to);
  }
}

async function requireWhole(files: ArchiveFiles, options: Omit<VerifyOptions, 'level'>) {
  const report = await verifySealed(files, { ...options, level: 'bytes' });
  if (!report.whole) throw notTakenIn(report.damagedFiles[0] ?? 'data');
  return report;
}

const notTakenIn = (name: string) =>
  new Failure('archive-damaged', {
    what: `“${name}” is missing or is not what was written.`,
    safe: 'Nothing was taken in.',
  });
