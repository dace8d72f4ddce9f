import { Worker } from 'node:worker_threads';
import type { ArchiveKey } from '../keys/archive-key.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Address } from '../store/store.js';
import { bufferOver } from '../tools/buffer-over.js';
import { endThread } from '../tools/end-thread.js';
import { workerUrl } from '../tools/worker-url.js';
import { FileChecker, type CheckResult, type CheckTask } from './check-file.js';

export interface CheckingThreadData {
  store: Address;
  archive: string;
  key: Uint8Array | null;
}

/**
 * Checks files, each by whichever thread is free.
 * @param tasks are taken one after the other, so that they need not all be in memory.
 * @param threads 0: in this thread.
 */
export async function checkAll(options: {
  files: ArchiveFiles;
  key: ArchiveKey | null;
  threads: number;
  tasks: Iterable<CheckTask>;
  onResult: (task: CheckTask, result: CheckResult) => void;
  /** Waited for before each. */
  pace?: (() => Promise<void>) | undefined;
  signal?: AbortSignal | undefined;
}): Promise<void> {
  const { files, key, threads, onResult, pace, signal } = options;
  const { address } = files.store;
  const tasks = options.tasks[Symbol.iterator]();
  if (threads === 0 || !address) {
    const checker = new FileChecker(files, key);
    for (let next = tasks.next(); !next.done; next = tasks.next()) {
      signal?.throwIfAborted();
      await pace?.();
      onResult(next.value, await checker.check(bufferedTask(next.value)));
    }
    return;
  }
  await Promise.all(
    Array.from({ length: threads }, async () => {
      const data: CheckingThreadData = {
        ...{ store: address, archive: files.name },
        key: key?.bytes() ?? null,
      };
      const worker = new Worker(workerUrl('checking-thread'), {
        workerData: data,
      });
      try {
        for (let next = tasks.next(); !next.done; next = tasks.next()) {
          signal?.throwIfAborted();
          await pace?.();
          onResult(next.value, await ask(worker, next.value));
        }
      } finally {
        await endThread(worker);
      }
    }),
  );
}

function ask(worker: Worker, task: CheckTask): Promise<CheckResult> {
  return new Promise((resolve, reject) => {
    const done = () => {
      worker.off('message', hear);
      worker.off('error', fail);
    };
    const hear = (result: CheckResult) => {
      done();
      resolve(result);
    };
    const fail = (error: Error) => {
      done();
      reject(error);
    };
    worker.on('message', hear);
    worker.on('error', fail);
    worker.postMessage(task);
  });
}

/** What came from another thread holds plain arrays of bytes. */
export function bufferedTask(task: CheckTask): CheckTask {
  if (task.type === 'digest') return task;
  return { type: 'pack', block: { ...task.block, entries: bufferOver(task.block.entries) } };
}
