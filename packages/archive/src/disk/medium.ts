import * as fs from 'node:fs/promises';

/**
 * Everything that an archive has done to its medium goes through here, so that the order in which it is done can be watched:
 * what a power cut leaves is decided by what was synced before what, and no kill of a process ever shows it.
 */
export type Step =
  | { do: 'create' | 'sync' | 'sync-folder' | 'remove' | 'folder'; path: string }
  | { do: 'write'; path: string; at: number; bytes: Buffer }
  | { do: 'rename'; path: string; to: string };

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
