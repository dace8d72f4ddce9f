import { PassThrough, Readable } from 'node:stream';
import { ZipFile } from 'yazl';

/** Puts a file into a package; `open` is called when its turn comes, after all before it were read. */
export type PutIntoZip = (
  path: string,
  options: { mtime?: Date; compress?: boolean },
  open: () => AsyncIterable<Uint8Array>,
) => void;

/**
 * A ZIP file (with ZIP64 where it is needed) as it is read; no file of it is held whole. Whoever stops reading ends what is
 * being read for it. What fails in a file ends all of it.
 */
export async function* zipStream(fill: (put: PutIntoZip) => void): AsyncGenerator<Uint8Array> {
  const zip = new ZipFile();
  const output = new PassThrough();
  zip.outputStream.pipe(output);
  // Heard to the end of this process: what nobody hears would end that.
  const fail = (error: Error) => output.destroy(error);
  zip.on('error', fail);
  const opened: Readable[] = [];
  fill((path, options, open) => {
    zip.addReadStreamLazy(path, options, (give) => {
      const contents = Readable.from(open());
      contents.on('error', fail);
      contents.once('close', () => opened.splice(opened.indexOf(contents), 1));
      opened.push(contents);
      give(null, contents);
    });
  });
  zip.end();
  try {
    for await (const piece of output) yield piece as Uint8Array;
  } finally {
    // Where nobody reads on, something is still being read.
    for (const contents of [...opened]) contents.destroy();
    output.destroy();
  }
}
