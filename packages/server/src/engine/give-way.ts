import { setTimeout as sleep } from 'node:timers/promises';

/** Work that gives way goes on within this once the bench is done, and stands still within it once it begins. */
const LOOK_EVERY_MS = 200;

/**
 * Waits for as long as a device is read or written by other work.
 * @param rests told once when it begins to wait, and once when it goes on
 */
export async function whileBenchWorks(
  benchWorks: () => boolean,
  rests: () => void,
  signal: AbortSignal,
): Promise<void> {
  if (!benchWorks()) return;
  rests();
  while (benchWorks()) await sleep(LOOK_EVERY_MS, undefined, { signal });
  rests();
}

/** @returns what is waited for before each piece, so that no more than so many bytes pass in a second; null: no limit */
export function speedLimit(
  bytesPerSecond: number | null,
  signal: AbortSignal,
): (bytes: number) => Promise<void> {
  /** When all that passed so far may have passed. */
  let until = 0;
  return async (bytes) => {
    if (bytesPerSecond === null) return;
    const now = performance.now();
    const early = until - now;
    until = Math.max(now, until) + (bytes / bytesPerSecond) * 1000;
    if (early > 0) await sleep(early, undefined, { signal });
  };
}
