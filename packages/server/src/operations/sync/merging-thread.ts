import { parentPort, workerData } from 'node:worker_threads';
import { merged, type Merging } from './merging.js';

/** A thread that merges once: see merging.ts. */
parentPort?.postMessage(merged(workerData as Merging));
