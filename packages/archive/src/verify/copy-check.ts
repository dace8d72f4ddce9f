import { createHash } from 'node:crypto';
import { closeSync, readSync } from 'node:fs';
import { join } from 'node:path';
import { setImmediate as yieldToEvents } from 'node:timers/promises';
import { Failure, type CheckedCopy } from '@bright-cellar/core';
import { openPlain } from '../disk/hostile.js';
import { MANIFEST, readManifest } from '../format/bag.js';
import { idOf } from '../format/layout.js';
import { readArchiveId } from '../open/archive-folder.js';
import { verifySealed } from './verify.js';

/** What a copy should be, as it was when it was last proven. */
export interface ExpectedCopy {
  archive: string;
  /** SHA-512 of the manifest. */
  digest: string;
}

const PIECE = 2 ** 20;

/**
 * That a copy is there now, in the very state that is expected: its tag files, every file with its length, and the
 * bytes of its roster and of its lists, all read from the medium. Needs no password; the bytes of the packs are not read.
 * @throws Failure `archive-not-here`, `archive-in-use`, `archive-of-another`, `archive-damaged`.
 */
export async function checkCopy(folder: string, expected: ExpectedCopy): Promise<CheckedCopy> {
  if ((await readArchiveId(folder)) !== expected.archive) throw new Failure('archive-of-another');
  const report = await verifySealed(folder, { level: 'structure', threads: 0 });
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
  for (const [name, sha512] of await readManifest(folder)) {
    if (idOf('roster', name) === null && idOf('backup', name) === null) continue;
    if ((await digestOf(join(folder, name))) !== sha512) {
      throw new Failure('archive-damaged', { what: `“${name}” is not what was written.` });
    }
  }
  // The only place that says so.
  return expected as CheckedCopy;
}

async function digestOf(path: string): Promise<string> {
  const hash = createHash('sha512');
  let fd: number;
  try {
    fd = openPlain(path);
  } catch (error) {
    throw new Failure('archive-damaged', {}, { cause: error });
  }
  try {
    const buffer = Buffer.allocUnsafeSlow(PIECE);
    for (let at = 0; ;) {
      const count = readSync(fd, buffer, 0, PIECE, at);
      if (count === 0) return hash.digest('hex');
      hash.update(buffer.subarray(0, count));
      at += count;
      await yieldToEvents();
    }
  } catch (error) {
    throw new Failure('archive-damaged', {}, { cause: error });
  } finally {
    closeSync(fd);
  }
}
