import { createWriteStream } from 'node:fs';
import { open, rename, rm, stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { diskFailure, syncFolder } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';

/**
 * Writes a file that is there whole or not at all, whatever happens: another of its name stays until this one is safe.
 * @throws Failure `rack-full`, `rack-not-here`; whatever the contents throw is passed on
 */
export async function writeOpenFile(
  path: string,
  contents: Iterable<string | Uint8Array> | AsyncIterable<string | Uint8Array>,
): Promise<void> {
  const unfinished = `${path}.new`;
  try {
    await pipeline(contents, createWriteStream(unfinished, { mode: 0o600 }));
    await synced(unfinished);
    await rename(unfinished, path);
    await syncFolder(dirname(path));
  } catch (error) {
    await rm(unfinished, { force: true });
    const meant = diskFailure(error);
    if (!(meant instanceof Failure) || meant === error) throw error;
    throw new Failure(
      meant.problem.code,
      {
        safe: 'Files that were whole before are as they were; nothing half-written stays.',
        next: 'Make room on the rack or choose another, and start again.',
      },
      { cause: error },
    );
  }
}

/** Whether a file of that size is there already. */
export async function isThere(path: string, bytes: number): Promise<boolean> {
  return stat(path).then(
    (found) => found.isFile() && found.size === bytes,
    () => false,
  );
}

async function synced(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}
