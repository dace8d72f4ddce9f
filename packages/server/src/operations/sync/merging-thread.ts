import { parentPort, workerData } from 'node:worker_threads';
import { answered, heard, merged } from '@bright-cellar/core/merge';

/** A thread that merges once: see merging.ts. */
const merging = heard(String(workerData));
parentPort?.postMessage(answered(merging, merged(merging)));
