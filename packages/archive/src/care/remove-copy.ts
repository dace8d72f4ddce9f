import { Failure } from '@bright-cellar/core';
import { diskFailure } from '../disk/durable.js';
import { manifestDigest } from '../format/bag.js';
import { readArchiveId } from '../open/archive-contents.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { orFailure } from '../tools/or-failure.js';

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
    await goneFrom(files);
  } catch (error) {
    throw diskFailure(error);
  } finally {
    await lease.release();
  }
}

/**
 * Destroys one copy of an archive for good: its keys first, so that what a medium may still hold of the rest opens for
 * nobody; then all of it; then it is looked for. Cut off at any moment, it can be repeated and finishes.
 * @returns whether something of it was there
 * @throws Failure `archive-in-use`, `archive-of-another`, `not-removed`
 */
export async function destroyCopy(files: ArchiveFiles, archive: string): Promise<boolean> {
  const lease = await files.lease('exclusive');
  try {
    const isThere = !(await files.work()).isNew;
    // Where its own file is damaged or gone already, nothing says that it is another's.
    const own = isThere ? await orFailure(() => readArchiveId(files)) : archive;
    if (!(own instanceof Failure) && own !== archive) throw new Failure('archive-of-another');
    const keys = isThere ? await files.list(KEYS) : [];
    await goneFrom(
      files,
      keys.map(({ name }) => name),
    );
    return isThere;
  } catch (error) {
    throw diskFailure(error);
  } finally {
    await lease.release();
  }
}

const KEYS = 'data/keys/';

/** @throws Failure `not-removed` where something is still there after */
async function goneFrom(files: ArchiveFiles, first: readonly string[] = []): Promise<void> {
  await files.store.removeArchive(files.name, first);
  const left = await files.list('');
  if (left.length > 0 || !(await files.work()).isNew) throw new Failure('not-removed');
}
