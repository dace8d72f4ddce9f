import { parentPort, workerData } from 'node:worker_threads';
import { ArchiveKey } from '../keys/archive-key.js';
import { ArchiveFiles } from '../store/archive-files.js';
import { openStore } from '../store/kinds.js';
import { serveThread } from '../tools/serve-thread.js';
import { FileChecker, type CheckTask } from './check-file.js';
import { bufferedTask, type CheckingThreadData } from './checking.js';

/** A thread that checks files: see check-file.ts for what it is asked and answers. */
const { store, archive, key } = workerData as CheckingThreadData;
const files = new ArchiveFiles(openStore(store), archive);
const checker = new FileChecker(files, key && ArchiveKey.of(key));
key?.fill(0);

serveThread<CheckTask>({
  async hear(task) {
    parentPort?.postMessage(await checker.check(bufferedTask(task)));
  },
  close: () => undefined,
});
