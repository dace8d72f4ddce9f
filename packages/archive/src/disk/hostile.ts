import { closeSync, constants, fstatSync, lstatSync, openSync, readSync } from 'node:fs';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';

/**
 * What lies on a rack may have been put there by anybody: a link that leads elsewhere, a pipe that nobody writes
 * into, a file that never ends. Whatever is read of it is opened through here.
 */

/**
 * Opens a plain file for reading, or fails: it follows no link and waits for no pipe.
 * @param flags of the system, beside those
 * @throws the system's error, or one that says `EINVAL`
 */
export function openPlain(path: string, flags = 0): number {
  const safe = constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK;
  const fd = openSync(path, safe | flags);
  if (fstatSync(fd).isFile()) return fd;
  closeSync(fd);
  throw Object.assign(new Error('not a plain file'), { code: 'EINVAL' });
}

/** A whole small file. @param most bytes; a longer one is refused before it is read */
export function readPlain(path: string, most: number): Buffer {
  const fd = openPlain(path);
  try {
    const { size } = fstatSync(fd);
    if (size > most) throw Object.assign(new Error('too long'), { code: 'EFBIG' });
    const bytes = Buffer.alloc(size);
    let filled = 0;
    while (filled < size) {
      const count = readSync(fd, bytes, filled, size - filled, filled);
      if (count === 0) break;
      filled += count;
    }
    return bytes.subarray(0, filled);
  } finally {
    closeSync(fd);
  }
}

/**
 * These folders below one are folders, or not there: a link in the place of one would have us write elsewhere.
 * @throws Failure `archive-damaged`
 */
export function mustBeFolders(root: string, names: readonly string[]): void {
  for (const name of names) {
    const info = lstatSync(join(root, name), { throwIfNoEntry: false });
    if (info && !info.isDirectory()) {
      throw new Failure('archive-damaged', { what: `“${name}” is not the folder it was.` });
    }
  }
}
