import { Failure } from '@bright-cellar/core';
import { diskFailure } from '../disk/durable.js';
import { manifestDigest } from '../format/bag.js';
import { readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';

/**
 * Takes one copy of an archive away, wholly, and looks that nothing of it is left. Cut off at any moment, it can be repeated
 * and finishes.
 * @param expected what must lie there; a place where nothing does is what was wanted
 * @throws Failure `archive-in-use` where somebody works with it, `archive-of-another`, `archive-changed` where something else
 * lies there, `not-removed` where something of it still does after
 */
export async function removeCopy(
  files: ArchiveFiles,
  expected: { archive: string; digest: string },
): Promise<void> {
  const lease = await files.lease('exclusive');
  try {
    if (!(await files.work()).isNew) {
      if ((await readArchiveId(files)) !== expected.archive) {
        throw new Failure('archive-of-another');
      }
      if ((await manifestDigest(files)) !== expected.digest) throw new Failure('archive-changed');
    }
    await files.store.removeArchive(files.name);
    const left = await files.list('');
    if (left.length > 0 || !(await files.work()).isNew) throw new Failure('not-removed');
  } catch (error) {
    throw diskFailure(error);
  } finally {
    await lease.release();
  }
}
