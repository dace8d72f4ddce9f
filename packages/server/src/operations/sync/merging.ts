import { Worker } from 'node:worker_threads';
import { asked, merged, understood, type Merged, type Merging } from '@bright-cellar/core/merge';

/** So few are merged sooner than a thread has begun. */
const FEW = 2_000;

/** What becomes of everything, in a thread of its own where there is much: whoever asks this process for something else does not wait for it. */
export async function mergedBeside(merging: Merging): Promise<Merged> {
  const { device, partner } = merging;
  // Threads cannot run TypeScript.
  const isSource = import.meta.url.endsWith('.ts');
  if (isSource || device.length + partner.length < FEW) return merged(merging);
  const worker = new Worker(new URL('../threads/merging-thread.js', import.meta.url), {
    workerData: asked(merging),
  });
  return new Promise((resolve, reject) => {
    worker.once('message', (text: string) => resolve(understood(merging, text)));
    worker.once('error', reject);
    worker.once('exit', () => reject(new Error('the thread that merges ended without an answer')));
  });
}
