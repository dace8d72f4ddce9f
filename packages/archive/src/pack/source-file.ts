import { closeSync, constants, fstatSync, openSync, readSync, type BigIntStats } from 'node:fs';

/** Why an item's bytes could not be taken. */
export type ReadFailure = 'read-error' | 'changed' | 'gone' | 'refused';

/** What a file system says of a file: as long as it says the same, the bytes are the same. */
export function markOf(stat: BigIntStats): string {
  return `${stat.ino}.${stat.size}.${stat.mtimeNs}.${stat.ctimeNs}`;
}

/**
 * Reads a range of a file, and only if the file is in the state that `mark` names, before and after.
 * @returns the number of bytes, always `target.length`, or why not.
 */
export function readRange(
  path: Buffer,
  mark: string,
  offset: number,
  target: Buffer,
): number | ReadFailure {
  let fd: number;
  try {
    fd = openSync(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
  } catch (error) {
    return failureOf(error);
  }
  try {
    if (markOf(fstatSync(fd, { bigint: true })) !== mark) return 'changed';
    let filled = 0;
    while (filled < target.length) {
      const count = readSync(
        fd,
        target,
        filled,
        Math.min(target.length - filled, 2 ** 20),
        offset + filled,
      );
      if (count === 0) return 'changed';
      filled += count;
    }
    return markOf(fstatSync(fd, { bigint: true })) === mark ? filled : 'changed';
  } catch (error) {
    return failureOf(error);
  } finally {
    closeSync(fd);
  }
}

export function failureOf(error: unknown): ReadFailure {
  const code = error instanceof Error && 'code' in error ? error.code : '';
  if (code === 'ENOENT' || code === 'ENOTDIR' || code === 'ELOOP') return 'gone';
  if (code === 'EACCES' || code === 'EPERM') return 'refused';
  return 'read-error';
}
