import { Encrypter } from 'age-encryption';
import { makeZip } from 'client-zip';
import { expose, transfer } from 'comlink';
import type { ApiProblem, Pictured } from '@bright-cellar/contract';
import { Failure, problem } from '@bright-cellar/core';
import { Looked, type Packing } from '@bright-cellar/look';
import { SealedBackup, sealedFolder } from '@bright-cellar/stick';
import { answered, type Called } from './answers.js';
import { drawn } from './drawing.js';

/** Said of what goes wrong while something is read: told, not thrown, since errors lose what they say on their way. */
type Said<T> = { told: T } | { problem: ApiProblem };

/** What is known of a stick once it is open. */
export interface Opened {
  deviceName: string;
  /** Files that should be there and are not. */
  missing: number;
}

/** Something to save, put together. */
interface Whole {
  name: string;
  blob: Blob;
}

/** Something to save, as it is read. */
interface Streamed {
  name: string;
  bytes: ReadableStream<Uint8Array>;
}

/** Pictures that are decoded at once: each takes the memory that all its pixels need. */
const DRAWN_AT_ONCE = 3;

const packing: Packing = {
  zip: (files) => pieces(makeZip(zipEntries(files))),
  async *seal(bytes, password) {
    const encrypter = new Encrypter();
    encrypter.setPassphrase(password);
    yield* pieces(await encrypter.encrypt(streamOf(bytes)));
  },
};

async function* zipEntries(files: Parameters<Packing['zip']>[0]) {
  for (const { path, modified, open } of files) {
    yield { name: path, ...(modified ? { lastModified: modified } : {}), input: open() };
  }
}

async function* pieces(stream: ReadableStream<Uint8Array>): AsyncGenerator<Uint8Array> {
  const reader = stream.getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } finally {
    await reader.cancel();
  }
}

function streamOf(bytes: AsyncIterable<Uint8Array>): ReadableStream<Uint8Array> {
  const iterator = bytes[Symbol.asyncIterator]();
  return new ReadableStream({
    async pull(controller) {
      const next = await iterator.next();
      if (next.done === true) controller.close();
      else controller.enqueue(next.value);
    },
    async cancel() {
      await iterator.return?.();
    },
  });
}

/** Reads the stick, beside the page: the key and all that was read are here, and end with it. */
class Reading {
  #looked: Looked | null = null;
  #drawing = 0;
  readonly #waiting: (() => void)[] = [];

  /** @param files by their paths below the chosen folder */
  open(files: Map<string, File>, password: string): Promise<Said<Opened>> {
    return said(async () => {
      const folder = sealedFolder(files);
      if (!folder)
        throw new Failure('archive-not-here', {
          what: 'There is no sealed data in that folder.',
          next: 'Choose the folder in which this page lies: “sealed” is in it.',
        });
      const backup = await SealedBackup.open(folder, password);
      this.#looked = new Looked(backup, {
        now: () => new Date(),
        zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
        packing,
        tidy: () => new Promise((done) => setTimeout(done)),
      });
      return { deviceName: backup.device?.name ?? 'the folder', missing: backup.missing.length };
    });
  }

  /** What a server would answer at the counter. */
  answer(called: Called): Promise<Said<unknown>> {
    return said(() => answered(this.#open, called));
  }

  /** A picture drawn anew, at most so many pixels wide and high. */
  picture(what: Pictured, pixels: number): Promise<Said<Blob>> {
    return said(async () => {
      while (this.#drawing >= DRAWN_AT_ONCE)
        await new Promise<void>((resolve) => this.#waiting.push(resolve));
      this.#drawing += 1;
      try {
        return await drawn(await this.#open.picture(what), pixels);
      } finally {
        this.#drawing -= 1;
        // What was asked for last is what somebody looks at.
        this.#waiting.pop()?.();
      }
    });
  }

  /** @param onRead told of the bytes read so far */
  media(item: number, onRead: (bytes: number) => void): Promise<Said<Blob>> {
    return said(async () => {
      const { head, bytes } = this.#open.played(item, 0, null);
      return blobOf(counted(bytes, onRead), head.type);
    });
  }

  /** Bytes. */
  sizeOf(item: number): Promise<Said<number>> {
    return said(async () => this.#open.file(item).bytes);
  }

  /** A file, put together before it is saved. */
  file(item: number): Promise<Said<Whole>> {
    return said(async () => {
      const { name, contents } = this.#open.file(item);
      return { name, blob: await blobOf(contents) };
    });
  }

  /** A file as it is read, for whoever writes it where it is to lie. */
  fileStreamed(item: number): Promise<Said<Streamed>> {
    return streamed(() => {
      const { name, contents } = this.#open.file(item);
      return { name, bytes: streamOf(contents) };
    });
  }

  packed(takeOut: string): Promise<Said<Whole>> {
    return said(async () => {
      const { head, bytes } = this.#open.takeOuts.open(takeOut, new Date());
      return { name: head.name, blob: await blobOf(bytes) };
    });
  }

  packedStreamed(takeOut: string): Promise<Said<Streamed>> {
    return streamed(() => {
      const { head, bytes } = this.#open.takeOuts.open(takeOut, new Date());
      return { name: head.name, bytes: streamOf(bytes) };
    });
  }

  get #open(): Looked {
    if (!this.#looked) throw new Failure('not-found');
    return this.#looked;
  }
}
export type { Reading };

async function said<T>(work: () => Promise<T>): Promise<Said<T>> {
  try {
    return { told: await work() };
  } catch (error) {
    return { problem: error instanceof Failure ? error.problem : problem('unexpected') };
  }
}

/** A stream does not go to the page like other values do: it is handed over. */
async function streamed(open: () => Streamed): Promise<Said<Streamed>> {
  const answer = await said(async () => open());
  return 'told' in answer ? transfer(answer, [answer.told.bytes]) : answer;
}

async function* counted(bytes: AsyncIterable<Uint8Array>, onRead: (bytes: number) => void) {
  let read = 0;
  for await (const piece of bytes) {
    yield piece;
    read += piece.length;
    onRead(read);
  }
}

/** Bytes put together by the browser, which keeps much of them elsewhere than in memory. */
async function blobOf(bytes: AsyncIterable<Uint8Array>, type = ''): Promise<Blob> {
  const TOGETHER = 16 * 2 ** 20;
  const blobs: Blob[] = [];
  let some: Uint8Array[] = [];
  let length = 0;
  const put = () => {
    blobs.push(new Blob(some as BlobPart[]));
    [some, length] = [[], 0];
  };
  for await (const piece of bytes) {
    some.push(piece.slice());
    length += piece.length;
    if (length >= TOGETHER) put();
  }
  put();
  return new Blob(blobs, { type });
}

expose(new Reading());
