import { createHash } from 'node:crypto';
import { setImmediate as yieldToEvents } from 'node:timers/promises';
import { Failure, type CheckedCopy } from '@bright-cellar/core';
import { mustBeAsked } from '../disk/errors.js';
import { MANIFEST, readManifest } from '../format/bag.js';
import { idOf } from '../format/layout.js';
import { readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { piecesOf } from '../store/read.js';
import { verifySealed } from './verify.js';

/** What a copy should be, as it was when it was last proven. */
export interface ExpectedCopy {
  archive: string;
  /** SHA-512 of the manifest. */
  digest: string;
}

/**
 * That a copy is there now, in the very state that is expected: its tag files, every file with its length, and the
 * bytes of its roster and of its lists, all read from the medium. Needs no password; the bytes of the packs are not read.
 * @throws Failure `archive-not-here`, `archive-in-use`, `archive-of-another`, `archive-damaged`.
 */
export async function checkCopy(files: ArchiveFiles, expected: ExpectedCopy): Promise<CheckedCopy> {
  if ((await readArchiveId(files)) !== expected.archive) throw new Failure('archive-of-another');
  const report = await verifySealed(files, { level: 'structure', threads: 0 });
  if (!report.whole) {
    throw new Failure('archive-damaged', {
      what: `“${report.damagedFiles[0] ?? MANIFEST}” is missing or is not what was written.`,
    });
  }
  if (report.manifestDigest !== expected.digest) {
    throw new Failure('archive-damaged', {
      what: 'This copy is not in the state in which it was proven.',
      next: 'Prove the backup again.',
    });
  }
  for (const [name, sha512] of await readManifest(files)) {
    if (idOf('roster', name) === null && idOf('backup', name) === null) continue;
    if ((await digestOf(files, name)) !== sha512) {
      throw new Failure('archive-damaged', { what: `“${name}” is not what was written.` });
    }
  }
  // The only place that says so.
  return expected as CheckedCopy;
}

async function digestOf(files: ArchiveFiles, name: string): Promise<string> {
  const hash = createHash('sha512');
  try {
    for await (const piece of piecesOf(files, name, { from: 'medium' })) {
      hash.update(piece);
      await yieldToEvents();
    }
    return hash.digest('hex');
  } catch (error) {
    mustBeAsked(error);
    throw new Failure('archive-damaged', {}, { cause: error });
  }
}
