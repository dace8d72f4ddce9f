import { rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Failure } from '@bright-cellar/core';
import { diskFailure, syncFolder } from '../disk/durable.js';
import { endThread } from '../tools/end-thread.js';
import { workerUrl } from '../tools/worker-url.js';
import { beginAge, type AgeRecipient } from './age-payload.js';

export interface AgeFileThreadData {
  path: string;
  beginning: Uint8Array;
  payloadKey: Uint8Array;
}
export type ToAgeFileThread = { type: 'bytes'; pieces: Uint8Array[] } | { type: 'finish' };
export type FromAgeFileThread = { type: 'written' } | { type: 'failed'; code: string };

/** Pieces are handed over once they are this many bytes. */
const HAND_OVER_BYTES = 2 ** 20;
const AHEAD = 4;

/**
 * Writes an age file in a thread of its own. The file has its name when it is whole and on the medium,
 * and not before.
 */
export class AgeFile {
  readonly #path: string;
  readonly #worker: Worker;
  readonly #waiting: (() => void)[] = [];
  #gathered: Uint8Array[] = [];
  #gatheredBytes = 0;
  #failure: Error | null = null;

  private constructor(path: string, data: AgeFileThreadData) {
    this.#path = path;
    this.#worker = new Worker(workerUrl('age-file-thread'), {
      workerData: data,
    });
    this.#worker.on('message', (message: FromAgeFileThread) => {
      if (message.type === 'failed') {
        this.#fail(Object.assign(new Error('not written'), { code: message.code }));
      } else this.#waiting.shift()?.();
    });
    this.#worker.on('error', (error) => this.#fail(error));
  }

  /** @throws Failure `already-exists`, `input-not-valid`. */
  static async create(path: string, to: AgeRecipient): Promise<AgeFile> {
    const { bytes, payloadKey } = await beginAge(to);
    await rm(draftOf(path), { force: true });
    return new AgeFile(path, { path: draftOf(path), beginning: bytes, payloadKey });
  }

  /** @param bytes must not be touched afterwards. */
  async write(bytes: Uint8Array): Promise<void> {
    this.#gathered.push(bytes);
    this.#gatheredBytes += bytes.length;
    if (this.#gatheredBytes < HAND_OVER_BYTES) return;
    await this.#handOver();
  }

  async finish(): Promise<void> {
    await this.#handOver();
    await this.#ask({ type: 'finish' });
    while (this.#waiting.length > 0) await this.#answer();
    await endThread(this.#worker);
    await rename(draftOf(this.#path), this.#path);
    await syncFolder(dirname(this.#path));
  }

  /** Leaves nothing behind. */
  async abandon(): Promise<void> {
    await endThread(this.#worker);
    await rm(draftOf(this.#path), { force: true });
  }

  async #handOver(): Promise<void> {
    const pieces = this.#gathered;
    this.#gathered = [];
    this.#gatheredBytes = 0;
    await this.#ask({ type: 'bytes', pieces });
  }

  async #ask(message: ToAgeFileThread): Promise<void> {
    this.#throwFailure();
    while (this.#waiting.length >= AHEAD) await this.#answer();
    // What owns its memory goes over without being copied.
    const owned = message.type === 'bytes' ? message.pieces.filter(ownsItsMemory) : [];
    this.#worker.postMessage(message, [...new Set(owned.map((p) => p.buffer as ArrayBuffer))]);
    this.#waiting.push(() => undefined);
  }

  /** Waits for the oldest message to be dealt with. */
  async #answer(): Promise<void> {
    await new Promise<void>((resolve) => {
      this.#waiting[0] = resolve;
      if (this.#failure) resolve();
    });
    this.#throwFailure();
  }

  #fail(error: Error): void {
    this.#failure ??= error;
    for (const done of this.#waiting.splice(0)) done();
  }

  #throwFailure(): void {
    if (!this.#failure) return;
    const failure = diskFailure(this.#failure);
    throw failure instanceof Error ? failure : new Failure('unexpected');
  }
}

const ownsItsMemory = (piece: Uint8Array) =>
  piece.byteLength === piece.buffer.byteLength && piece.byteLength > 64 * 2 ** 10;

const draftOf = (path: string) => `${path}.unfinished`;
