import { PassThrough, Readable } from 'node:stream';
import { sealAge } from '@bright-cellar/archive';
import type { TakeOut } from '@bright-cellar/contract';
import { ZipFile } from 'yazl';
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

async function* zipOf(
  outputs: Iterable<Output>,
  read: (item: number) => AsyncIterable<Uint8Array>,
  report: (progress: Progress) => string,
  progress: Progress,
): AsyncGenerator<Uint8Array> {
  const zip = new ZipFile();
  const output = new PassThrough();
  zip.outputStream.pipe(output);
  const fail = (error: Error) => output.destroy(error);
  zip.once('error', fail);
  const lazily = (path: string, modified: Date, compress: boolean, open: () => Readable) =>
    zip.addReadStreamLazy(path, { mtime: modified, compress }, (give) => give(null, open()));
  for (const one of outputs) {
    const isText = 'text' in one;
    lazily(one.path, one.modified, isText, () =>
      Readable.from(
        isText ? written(one.text, progress) : whole(one.path, read(one.item), progress),
      ),
    );
  }
  // Made when all before it was read: it knows what failed.
  lazily('what-was-taken.txt', new Date(), true, () =>
    Readable.from([Buffer.from(report(progress))]),
  );
  zip.end();
  try {
    yield* output as AsyncIterable<Uint8Array>;
  } finally {
    zip.off('error', fail);
    output.destroy();
  }
}

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
