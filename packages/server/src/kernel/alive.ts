const EVERY_MS = 5_000;

/** Tells whoever keeps this process running that it does: one that has nothing to say for a minute is ended, and started again. */
export function sayAlive(): void {
  setInterval(() => {
    if (process.connected) process.send?.({ alive: true });
  }, EVERY_MS).unref();
}
