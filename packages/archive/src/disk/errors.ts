import { Failure } from '@bright-cellar/core';

/** What the system calls an error; empty where it is none of the system's. */
export const codeOf = (error: unknown): unknown =>
  error instanceof Error && 'code' in error ? error.code : '';

/** Whether a rack on the network could not be asked: that says nothing of what lies there, and damage least of all. */
export const wasNotAsked = (error: unknown): boolean =>
  codeOf(error) === 'ENOTCONN' ||
  (error instanceof Failure && error.problem.code === 'rack-not-here');

/** @throws Failure `rack-not-here` where a rack could not be asked */
export function mustBeAsked(error: unknown): void {
  if (!wasNotAsked(error)) return;
  throw error instanceof Failure ? error : new Failure('rack-not-here', {}, { cause: error });
}

/** What is read, null where it is missing or cannot be read. @throws Failure `rack-not-here` */
export async function orNull<T>(reading: Promise<T>): Promise<T | null> {
  try {
    return await reading;
  } catch (error) {
    mustBeAsked(error);
    return null;
  }
}

/** Whether an error says what was found of what lies there: it is missing, damaged, or another's. */
export const isFinding = (error: unknown): error is Failure =>
  error instanceof Failure && !wasNotAsked(error);

/** Where a file system knows no hard links, this is what it says. */
export const noLinks: readonly unknown[] = ['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'];

/** A medium that takes nothing more can still be read. */
export const cannotWrite: readonly unknown[] = ['EROFS', 'EACCES', 'EPERM', 'ENOSPC', 'EDQUOT'];
