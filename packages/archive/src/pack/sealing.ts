import { Worker } from 'node:worker_threads';
import type { PackBlock } from '../format/chunk-index.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { bufferOver } from '../tools/buffer-over.js';
import { endThread } from '../tools/end-thread.js';
import { workerUrl } from '../tools/worker-url.js';
import { ChunkSealer, type Part, type PartResult } from './chunk-sealer.js';
import type { ChunkSet, SharedTable } from '../tools/chunk-set.js';

/** Where sealing is done: in this thread, or in others. */
export interface Sealing {
  /** Results in the order of the parts. Rejects when a pack cannot be written. */
  seal(parts: Part[]): Promise<PartResult[]>;
  /** Finishes the packs that are open. */
  closePacks(): Promise<void>;
  /** Ends the threads; open packs stay as they are. */
  stop(): Promise<void>;
}

export interface SealingOptions {
  folder: string;
  key: ArchiveKey;
  known: ChunkSet;
  /** Called in the main thread when a pack is finished and not yet synced. */
  onPack: (block: PackBlock) => void;
}

/**
 * Threads that are started and wait for their key: they load their code while the password is still
 * being tried.
 */
export class SealingCrew {
  readonly #workers: Worker[];

  /** @param threads 0: sealing is done in this thread. */
  constructor(threads: number) {
    const url = workerUrl('sealing-thread');
    this.#workers = Array.from({ length: threads }, () => new Worker(url));
  }

  begin(options: SealingOptions): Sealing {
    return this.#workers.length > 0
      ? new ThreadedSealing(this.#workers, options)
      : new OwnSealing(options);
  }

  async dismiss(): Promise<void> {
    await Promise.all(this.#workers.map((worker) => endThread(worker)));
  }
}

class OwnSealing implements Sealing {
  readonly #sealer: ChunkSealer;
  readonly #known: ChunkSet;

  constructor({ folder, key, known, onPack }: SealingOptions) {
    this.#sealer = new ChunkSealer(folder, key, known, onPack);
    this.#known = known;
  }

  async seal(parts: Part[]): Promise<PartResult[]> {
    this.#known.grow();
    return parts.map((part) => this.#sealer.seal(part));
  }

  async closePacks(): Promise<void> {
    this.#sealer.closePack();
  }

  async stop(): Promise<void> {
    this.#sealer.giveUp();
  }
}

export type ToSealingThread =
  /** Comes first. */
  | { type: 'begin'; folder: string; key: Uint8Array; tables: SharedTable[] }
  | { type: 'seal'; parts: Part[] }
  | { type: 'table'; table: SharedTable }
  | { type: 'close' };
export type FromSealingThread =
  | { type: 'sealed'; results: PartResult[] }
  | { type: 'pack'; block: PackBlock }
  | { type: 'closed' }
  | { type: 'failed'; message: string; code: string };

interface Waiting {
  resolve: (results: PartResult[]) => void;
  reject: (error: Error) => void;
}

class ThreadedSealing implements Sealing {
  readonly #known: ChunkSet;
  readonly #threads: { worker: Worker; waiting: Waiting[] }[];
  readonly #onPack: (block: PackBlock) => void;
  #failure: Error | null = null;

  constructor(workers: Worker[], { folder, key, known, onPack }: SealingOptions) {
    this.#known = known;
    this.#onPack = onPack;
    known.grow();
    this.#threads = workers.map((worker) => {
      const message: ToSealingThread = {
        type: 'begin',
        folder,
        key: key.bytes(),
        tables: known.tables(),
      };
      worker.postMessage(message);
      const thread = { worker, waiting: [] as Waiting[] };
      worker.on('message', (message: FromSealingThread) => this.#hear(thread, message));
      worker.on('error', (error) => this.#fail(error));
      return thread;
    });
  }

  async seal(parts: Part[]): Promise<PartResult[]> {
    const table = this.#known.grow();
    if (table) for (const { worker } of this.#threads) worker.postMessage({ type: 'table', table });
    return this.#ask(this.#leastBusy(), { type: 'seal', parts });
  }

  async closePacks(): Promise<void> {
    await Promise.all(this.#threads.map((thread) => this.#ask(thread, { type: 'close' })));
  }

  async stop(): Promise<void> {
    this.#failure ??= new Error('sealing was stopped');
    await Promise.all(this.#threads.map(({ worker }) => endThread(worker)));
  }

  #leastBusy() {
    return this.#threads.reduce((least, thread) =>
      thread.waiting.length < least.waiting.length ? thread : least,
    );
  }

  #ask(thread: { worker: Worker; waiting: Waiting[] }, message: ToSealingThread) {
    return new Promise<PartResult[]>((resolve, reject) => {
      if (this.#failure) return reject(this.#failure);
      thread.waiting.push({ resolve, reject });
      const buffers =
        message.type === 'seal'
          ? message.parts.flatMap(({ source }) =>
              source instanceof Uint8Array ? [source.buffer as ArrayBuffer] : [],
            )
          : [];
      // Parts that came in one piece share their memory.
      thread.worker.postMessage(message, [...new Set(buffers)]);
    });
  }

  #hear(thread: { waiting: Waiting[] }, message: FromSealingThread): void {
    if (message.type === 'pack') {
      this.#onPack({ ...message.block, entries: bufferOver(message.block.entries) });
    } else if (message.type === 'failed') {
      this.#fail(Object.assign(new Error(message.message), { code: message.code }));
    } else {
      thread.waiting.shift()?.resolve(message.type === 'sealed' ? message.results : []);
    }
  }

  #fail(error: Error): void {
    this.#failure ??= error;
    for (const { waiting } of this.#threads) {
      for (const { reject } of waiting.splice(0)) reject(error);
    }
  }
}
