import { Worker } from 'node:worker_threads';
import type { ArchiveKey } from '../keys/archive-key.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Address } from '../store/store.js';
import { endThread } from '../tools/end-thread.js';
import { workerUrl } from '../tools/worker-url.js';
import { ChunkOpener } from './chunk-opener.js';
import { doReadingTask, mustBeDone, type ReadingResult, type ReadingTask } from './reading-task.js';

export interface ReadingOptions {
  files: ArchiveFiles;
  /** Ids of the packs by their numbers. */
  packs: readonly string[];
  key: ArchiveKey;
  /** 0: in this thread. */
  threads: number;
}

export interface ReadingThreadData {
  store: Address;
  archive: string;
  packs: readonly string[];
  key: Uint8Array;
}

/** Where chunks are opened: in this thread, or in others. */
export abstract class Reading {
  /** Tasks that can be given at a time without any of them waiting long. */
  abstract readonly width: number;
  /** Results in the order of the tasks. */
  abstract do(tasks: ReadingTask[]): Promise<ReadingResult[]>;
  abstract stop(): Promise<void>;

  /** The bytes of one piece. @throws Failure `archive-damaged`, `rack-not-here`. */
  async bytes(piece: Uint8Array): Promise<Uint8Array> {
    const [result] = await this.do([{ type: 'bytes', pieces: piece, digest: false }]);
    return mustBeDone(result).chunks[0] ?? new Uint8Array(0);
  }
}

export function startReading(options: ReadingOptions): Reading {
  const { address } = options.files.store;
  return options.threads > 0 && address
    ? new ThreadedReading(options, address)
    : new OwnReading(options);
}

class OwnReading extends Reading {
  readonly width = 1;
  readonly #opener: ChunkOpener;
  #before: Promise<unknown> = Promise.resolve();

  constructor({ files, packs, key }: ReadingOptions) {
    super();
    this.#opener = new ChunkOpener(files, packs, key);
  }

  do(tasks: ReadingTask[]): Promise<ReadingResult[]> {
    // One after the other, as a thread does it: what is read is overwritten by what is read next.
    const done = this.#before.then(async () => {
      const results: ReadingResult[] = [];
      for (const task of tasks) results.push(await doReadingTask(this.#opener, task));
      return results;
    });
    this.#before = done.catch(() => undefined);
    return done;
  }

  async stop(): Promise<void> {
    await this.#before;
    this.#opener.close();
  }
}

interface Waiting {
  resolve: (results: ReadingResult[]) => void;
  reject: (error: Error) => void;
}

class ThreadedReading extends Reading {
  readonly width: number;
  readonly #threads: { worker: Worker; waiting: Waiting[] }[];
  #failure: Error | null = null;

  constructor({ files, packs, key, threads }: ReadingOptions, store: Address) {
    super();
    this.width = threads * 2;
    this.#threads = Array.from({ length: threads }, () => {
      const data: ReadingThreadData = { store, archive: files.name, packs, key: key.bytes() };
      const worker = new Worker(workerUrl('reading-thread'), {
        workerData: data,
      });
      const waiting: Waiting[] = [];
      worker.on('message', (results: ReadingResult[]) => waiting.shift()?.resolve(results));
      worker.on('error', (error) => this.#fail(error));
      return { worker, waiting };
    });
  }

  do(tasks: ReadingTask[]): Promise<ReadingResult[]> {
    const thread = this.#threads.reduce((least, other) =>
      other.waiting.length < least.waiting.length ? other : least,
    );
    return new Promise((resolve, reject) => {
      if (this.#failure) return reject(this.#failure);
      thread.waiting.push({ resolve, reject });
      thread.worker.postMessage(tasks);
    });
  }

  async stop(): Promise<void> {
    this.#fail(new Error('reading was stopped'));
    await Promise.all(this.#threads.map(({ worker }) => endThread(worker)));
  }

  #fail(error: Error): void {
    this.#failure ??= error;
    for (const { waiting } of this.#threads) {
      for (const { reject } of waiting.splice(0)) reject(error);
    }
  }
}
