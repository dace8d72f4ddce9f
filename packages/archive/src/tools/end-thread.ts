import type { Worker } from 'node:worker_threads';

/** The message that ends a thread: see serve-thread.ts. */
export const END = 'end';

/**
 * Ends a thread after what it is doing now, and lets it close its files: the files of a thread that is
 * terminated stay open in its process.
 */
export async function endThread(worker: Worker): Promise<void> {
  const gone = new Promise<void>((resolve) => worker.once('exit', () => resolve()));
  worker.postMessage(END);
  await gone;
}
