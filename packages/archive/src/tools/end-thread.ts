import type { Worker } from 'node:worker_threads';

/** The message that ends a thread: see serve-thread.ts. */
export const END = 'end';

const AT_MOST_MS = 30_000;

/**
 * Ends a thread after what it is doing now, and lets it close its files: the files of a thread that is
 * terminated stay open in its process. One that does not come to an end, on a medium that hangs, is terminated.
 */
export async function endThread(worker: Worker): Promise<void> {
  // One that has ended already says nothing any more.
  if (worker.threadId === -1) return;
  const gone = new Promise<void>((resolve) => worker.once('exit', () => resolve()));
  worker.postMessage(END);
  const late = setTimeout(() => void worker.terminate(), AT_MOST_MS);
  await gone;
  clearTimeout(late);
}
