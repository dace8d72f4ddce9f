import { Failure } from '@bright-cellar/core';
import type { ArchiveFiles } from '../store/archive-files.js';
import { copyArchive, discardCopy, type Copied, type CopyOptions } from './copy.js';

/**
 * Takes an archive in, whatever it is called, to a place of its own, or leaves nothing there.
 * @throws Failure `already-exists`, and what {@link copyArchive} throws
 */
export async function importBag(
  from: ArchiveFiles,
  to: ArchiveFiles,
  options: Omit<CopyOptions, 'from' | 'to'> = {},
): Promise<Copied> {
  if (!(await to.work()).isNew) throw new Failure('already-exists');
  try {
    return await copyArchive({ ...options, from, to });
  } catch (error) {
    await discardCopy(to);
    throw error;
  }
}
