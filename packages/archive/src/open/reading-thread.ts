import { parentPort, workerData } from 'node:worker_threads';
import { ArchiveKey } from '../keys/archive-key.js';
import { collectPieces } from '../tools/collect.js';
import { isThreadEnd, onThreadEnd } from '../tools/end-thread.js';
import { ChunkOpener } from './chunk-opener.js';
import type { ReadingThreadData } from './reading.js';
import { doReadingTask, type ReadingTask } from './reading-task.js';

/** A thread that opens chunks: see reading-task.ts for what it is asked and answers. */
const { folder, packs, key } = workerData as ReadingThreadData;
const opener = new ChunkOpener(folder, packs, ArchiveKey.of(key));
key.fill(0);

onThreadEnd(() => opener.close());

parentPort?.on('message', (tasks: ReadingTask[]) => {
  if (isThreadEnd(tasks)) return;
  const results = tasks.map((task) => doReadingTask(opener, task));
  collectPieces();
  const buffers = results.flatMap((result) =>
    result.type === 'done' && result.bytes ? [result.bytes.buffer as ArrayBuffer] : [],
  );
  parentPort?.postMessage(results, buffers);
});
