import type { TakeOut } from '@bright-cellar/contract';
import type { Output } from './outputs.js';

/** A file of a package, opened when its turn comes, after all before it were read. */
export interface Packed {
  path: string;
  modified: Date | null;
  /** Letters: worth being made smaller. */
  isText: boolean;
  open: () => AsyncIterable<Uint8Array>;
}

/** How packages are made where somebody looks. */
export interface Packing {
  /** A ZIP file (APPNOTE 6.3, with what is needed beyond 4 GB), told as it is read: no file of it is held whole. */
  zip(files: Iterable<Packed>): AsyncIterable<Uint8Array>;
  /** Sealed with a password as an age v1 file (scrypt). */
  seal(bytes: AsyncIterable<Uint8Array>, password: string): AsyncIterable<Uint8Array>;
}

/** How taking out goes, while it goes and after. */
export type Progress = TakeOut & { failedPaths: Set<string> };

export const newProgress = (): Progress => ({
  ...{ state: 'waiting', taken: 0, bytes: 0, failed: [], wrote: null, failedPaths: new Set() },
});

/** What is taken out, file by file, once; whoever puts them somewhere says how that ended. */
export interface TakenFiles {
  /** What it is called, without an ending. */
  name: string;
  files: Iterable<Packed>;
  /** Sealed as one file with this; null where each lies by itself. */
  password: string | null;
  ended(isWhole: boolean): void;
}

/** More of what failed is not told by name. */
const FAILED_MOST = 500;

/**
 * What is taken out as one ZIP file, told as it is read: nothing of it lies on a disk.
 * @param password seals it (age v1); null leaves it open
 */
export async function* packageOf(
  files: Iterable<Packed>,
  password: string | null,
  progress: Progress,
  packing: Packing,
): AsyncGenerator<Uint8Array> {
  const bytes = packing.zip(files);
  progress.state = 'running';
  let isWhole = false;
  try {
    yield* password === null ? bytes : packing.seal(bytes, password);
    isWhole = true;
  } finally {
    progress.state = isWhole ? 'done' : 'cut';
  }
}

/** Everything that is taken out, and last what says what is in it and what is not. @param read an item's bytes */
export function* filesOf(
  outputs: Iterable<Output>,
  read: (item: number) => AsyncIterable<Uint8Array>,
  report: (progress: Progress) => string,
  progress: Progress,
): Generator<Packed> {
  for (const one of outputs) {
    const isText = 'text' in one;
    const open = () => {
      if (isText) return written(one.text(), progress);
      return 'made' in one
        ? whole(
            one.path,
            one.made(),
            progress,
            'It could not be made whole; take it out once more.',
          )
        : whole(one.path, read(one.item), progress, DAMAGED);
    };
    yield { path: one.path, modified: one.modified, isText, open };
  }
  // Made when all before it was read: it knows what failed.
  yield {
    ...{ path: 'what-was-taken.txt', modified: null, isText: true },
    async *open() {
      yield encoder.encode(report(progress));
    },
  };
}

const encoder = new TextEncoder();

async function* written(text: string, progress: Progress): AsyncGenerator<Uint8Array> {
  const bytes = encoder.encode(text);
  yield bytes;
  progress.taken += 1;
  progress.bytes += bytes.length;
}

const DAMAGED = 'It is damaged in the archive: what is there of it ends early.';

/** A file's bytes; what cannot be read of it, or made, ends there, and is told by name. */
async function* whole(
  path: string,
  bytes: AsyncIterable<Uint8Array>,
  progress: Progress,
  reason: string,
): AsyncGenerator<Uint8Array> {
  try {
    for await (const piece of bytes) {
      progress.bytes += piece.length;
      yield piece;
    }
    progress.taken += 1;
  } catch {
    progress.failedPaths.add(path);
    if (progress.failed.length < FAILED_MOST) {
      progress.failed.push({ path, reason });
    }
  }
}
