import { parentPort, workerData } from 'node:worker_threads';
import { ArchiveKey } from '../keys/archive-key.js';
import { serveThread } from '../tools/serve-thread.js';
import { ChunkOpener } from './chunk-opener.js';
import type { ReadingThreadData } from './reading.js';
import { doReadingTask, type ReadingTask } from './reading-task.js';

/** A thread that opens chunks: see reading-task.ts for what it is asked and answers. */
const { folder, packs, key } = workerData as ReadingThreadData;
const opener = new ChunkOpener(folder, packs, ArchiveKey.of(key));
key.fill(0);

serveThread<ReadingTask[]>({
  hear(tasks) {
    const results = tasks.map((task) => doReadingTask(opener, task));
    const buffers = results.flatMap((result) =>
      result.type === 'done' ? result.chunks.map((chunk) => chunk.buffer as ArrayBuffer) : [],
    );
    parentPort?.postMessage(results, buffers);
  },
  close: () => opener.close(),
});
