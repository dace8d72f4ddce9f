import { sealAge } from '@bright-cellar/archive';
import type { TakeOut } from '@bright-cellar/contract';
import { zipStream } from '../../kernel/zip-stream.js';
import type { Output } from './outputs.js';

/** How taking out goes, while it goes and after. */
export type Progress = TakeOut & { failedPaths: Set<string> };

export const newProgress = (): Progress => ({
  ...{ state: 'waiting', taken: 0, bytes: 0, failed: [], failedPaths: new Set() },
});

/** More of what failed is not told by name. */
const FAILED_MOST = 500;

/**
 * What is taken out as one ZIP file (APPNOTE 6.3, with what is needed beyond 4 GB), told as it is read: no item is held whole, and nothing of it
 * lies on a disk. Its last file says what is in it and what is not.
 * @param read an item's bytes
 * @param password seals it (age v1); null leaves it open
 */
export async function* packageOf(
  outputs: Iterable<Output>,
  read: (item: number) => AsyncIterable<Uint8Array>,
  {
    report,
    password,
    progress,
  }: { report: (progress: Progress) => string; password: string | null; progress: Progress },
): AsyncGenerator<Uint8Array> {
  const bytes = zipOf(outputs, read, report, progress);
  progress.state = 'running';
  let isWhole = false;
  try {
    yield* password === null ? bytes : sealAge(bytes, { password });
    isWhole = true;
  } finally {
    progress.state = isWhole ? 'done' : 'cut';
  }
}

const zipOf = (
  outputs: Iterable<Output>,
  read: (item: number) => AsyncIterable<Uint8Array>,
  report: (progress: Progress) => string,
  progress: Progress,
): AsyncGenerator<Uint8Array> =>
  zipStream((put) => {
    for (const one of outputs) {
      const isText = 'text' in one;
      put(one.path, { mtime: one.modified, compress: isText }, () =>
        isText ? written(one.text, progress) : whole(one.path, read(one.item), progress),
      );
    }
    // Made when all before it was read: it knows what failed.
    put('what-was-taken.txt', {}, async function* () {
      yield Buffer.from(report(progress));
    });
  });

async function* written(text: string, progress: Progress): AsyncGenerator<Buffer> {
  const bytes = Buffer.from(text);
  yield bytes;
  progress.taken += 1;
  progress.bytes += bytes.length;
}

/** An item's bytes; what cannot be read of it ends there, and is told by name. */
async function* whole(
  path: string,
  bytes: AsyncIterable<Uint8Array>,
  progress: Progress,
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
      progress.failed.push({
        path,
        reason: 'It is damaged in the archive: what is there of it ends early.',
      });
    }
  }
}
