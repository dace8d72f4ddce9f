import { open } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Failure } from '@bright-cellar/core';
import { rename, tell } from './medium.js';

/** Makes a folder's own entries (names created, renamed, removed in it) survive a power cut. */
export async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
    tell(() => ({ do: 'sync-folder', path: folder }));
  } finally {
    await handle.close();
  }
}

/** Makes a file durable that somebody wrote before. */
export async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.datasync();
    tell(() => ({ do: 'sync', path }));
  } finally {
    await handle.close();
  }
}

/** Writes a whole new file and its bytes to the medium. The name is durable after {@link syncFolder}. */
export async function writeFileDurably(path: string, contents: string | Uint8Array): Promise<void> {
  const handle = await open(path, 'wx', 0o600);
  try {
    tell(() => ({ do: 'create', path }));
    await handle.writeFile(contents);
    tell(() => ({ do: 'write', path, at: 0, bytes: Buffer.from(contents) }));
    await handle.sync();
    tell(() => ({ do: 'sync', path }));
  } finally {
    await handle.close();
  }
}

/** Gives a finished folder its final name, once and for all. Its contents must have been synced before. */
export async function renameDurably(from: string, to: string): Promise<void> {
  await rename(from, to);
  await syncFolder(dirname(to));
}

/** What systems say of a medium that cannot be written, breaks, or is gone in the middle of the work. */
const goneCodes: ReadonlySet<string> = new Set(
  'EROFS EACCES EPERM EIO ENOENT ENOTDIR ENODEV ENXIO ESTALE ENOTCONN EHOSTDOWN ETIMEDOUT'.split(
    ' ',
  ),
);

/** What the operating system's error means to a technician; unknown ones are passed on. */
export function diskFailure(error: unknown): unknown {
  const code = error instanceof Error && 'code' in error ? error.code : undefined;
  if (code === 'ENOSPC' || code === 'EDQUOT') return new Failure('rack-full', {}, { cause: error });
  return typeof code === 'string' && goneCodes.has(code)
    ? new Failure('rack-not-here', {}, { cause: error })
    : error;
}
