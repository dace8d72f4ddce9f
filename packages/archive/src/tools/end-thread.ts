import { parentPort, type Worker } from 'node:worker_threads';

/**
 * Ends a thread after what it is doing now, and lets it close its files: the files of a thread that is
 * terminated stay open in its process.
 */
export async function endThread(worker: Worker): Promise<void> {
  const gone = new Promise<void>((resolve) => worker.once('exit', () => resolve()));
  worker.postMessage(END);
  await gone;
}

const END = 'end';

/** The thread's side of it. @param close what it has open. */
export function onThreadEnd(close: () => void): void {
  parentPort?.on('message', (message: unknown) => {
    if (message !== END) return;
    try {
      close();
    } finally {
      parentPort?.close();
    }
  });
}

/** Whether a message is {@link endThread}'s, and not for anybody else. */
export const isThreadEnd = (message: unknown): boolean => message === END;
