import * as fs from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { codeOf } from './errors.js';

/**
 * Everything that an archive has done to its medium goes through here, so that the order in which it is done can be watched:
 * what a power cut leaves is decided by what was synced before what, and no kill of a process ever shows it.
 */
export type Step =
  | { do: 'create' | 'sync' | 'sync-folder' | 'remove' | 'folder'; path: string }
  | { do: 'write'; path: string; at: number; bytes: Buffer }
  | { do: 'rename' | 'link'; path: string; to: string };

let watcher: ((step: Step) => void) | null = null;

/** Hears of every step once it was done, in this thread. @param watch null for nobody any more */
export function watchMedium(watch: ((step: Step) => void) | null): void {
  watcher = watch;
}

/** @param step made only where somebody watches */
export function tell(step: () => Step): void {
  if (watcher) watcher(step());
}

export async function rename(from: string, to: string): Promise<void> {
  await fs.rename(from, to);
  tell(() => ({ do: 'rename', path: from, to }));
}

export async function rm(
  path: string,
  options?: { recursive?: boolean; force?: boolean },
): Promise<void> {
  await fs.rm(path, options);
  tell(() => ({ do: 'remove', path }));
}

export async function rmdir(path: string): Promise<void> {
  await fs.rmdir(path);
  tell(() => ({ do: 'remove', path }));
}

export async function mkdir(
  path: string,
  options: { recursive?: boolean; mode?: number } = {},
): Promise<void> {
  await fs.mkdir(path, options);
  tell(() => ({ do: 'folder', path }));
}

/**
 * Makes a folder and those between it and `root`, never `root` itself nor anything above: where a drive has gone in the
 * middle of work, its archives must not begin anew on the disk that it was mounted on.
 * @param root is there, or this fails
 */
export async function mkdirInside(
  root: string,
  path: string,
  options: { mode?: number } = {},
): Promise<void> {
  for (let tries = 0; ; tries++) {
    try {
      return await makeEach(root, path, options);
    } catch (error) {
      // Somebody whose work is over has just removed one of them, which was empty.
      if (tries > 0 || codeOf(error) !== 'ENOENT') throw error;
    }
  }
}

async function makeEach(root: string, path: string, options: { mode?: number }): Promise<void> {
  let made = root;
  for (const part of relative(root, path).split(sep).filter(Boolean)) {
    made = join(made, part);
    try {
      await mkdir(made, options);
    } catch (error) {
      if (codeOf(error) !== 'EEXIST') throw error;
    }
  }
}
