import { Failure } from '@bright-cellar/core';

/** What the system calls an error; empty where it is none of the system's. */
export const codeOf = (error: unknown): unknown =>
  error instanceof Error && 'code' in error ? error.code : '';

/**
 * A rack on the network that could not be asked: that says nothing of what lies there, and damage least of all.
 * @throws Failure `rack-not-here` in that case
 */
export function mustBeAsked(error: unknown): void {
  if (codeOf(error) === 'ENOTCONN') throw new Failure('rack-not-here', {}, { cause: error });
}

/** Where a file system knows no hard links, this is what it says. */
export const noLinks: readonly unknown[] = ['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'];

/** A medium that takes nothing more can still be read. */
export const cannotWrite: readonly unknown[] = ['EROFS', 'EACCES', 'EPERM', 'ENOSPC', 'EDQUOT'];
