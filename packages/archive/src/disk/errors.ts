/** What the system calls an error; empty where it is none of the system's. */
export const codeOf = (error: unknown): unknown =>
  error instanceof Error && 'code' in error ? error.code : '';

/** Where a file system knows no hard links, this is what it says. */
export const noLinks: readonly unknown[] = ['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'];

/** A medium that takes nothing more can still be read. */
export const cannotWrite: readonly unknown[] = ['EROFS', 'EACCES', 'EPERM', 'ENOSPC', 'EDQUOT'];
