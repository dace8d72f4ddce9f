import { parentPort, workerData } from 'node:worker_threads';
import { ArchiveKey } from '../keys/archive-key.js';
import { ArchiveFiles } from '../store/archive-files.js';
import { openStore } from '../store/kinds.js';
import { serveThread } from '../tools/serve-thread.js';
import { ChunkOpener } from './chunk-opener.js';
import type { ReadingThreadData } from './reading.js';
import { doReadingTask, type ReadingResult, type ReadingTask } from './reading-task.js';

/** A thread that opens chunks: see reading-task.ts for what it is asked and answers. */
const { store, archive, packs, key } = workerData as ReadingThreadData;
const files = new ArchiveFiles(openStore(store), archive);
const opener = new ChunkOpener(files, packs, ArchiveKey.of(key));
key.fill(0);

serveThread<ReadingTask[]>({
  async hear(tasks) {
    const results: ReadingResult[] = [];
    for (const task of tasks) results.push(await doReadingTask(opener, task));
    const buffers = results.flatMap((result) =>
      result.type === 'done' ? result.chunks.map((chunk) => chunk.buffer as ArrayBuffer) : [],
    );
    parentPort?.postMessage(results, buffers);
  },
  close: () => opener.close(),
});
