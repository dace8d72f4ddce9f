import { createHash } from 'node:crypto';
import { openPlain } from '@bright-cellar/archive';
import { applicationManifestSchema, Failure, type ApplicationManifest } from '@bright-cellar/core';
import { inOne } from '../../kernel/in-one.js';
import { fromFdPromise, type Entry, type ZipFile } from 'yauzl';

/** One with more files in it is none that a device gave out. */
const ENTRIES_MAX = 200_001;
const MANIFEST_BYTES_MAX = 64e6;
const MANIFEST = 'manifest.json';

/** A package of one application: docs/application-package.md. What is in it is believed only as far as it was checked. */
export class OpenPackage {
  readonly manifest: ApplicationManifest;
  readonly #zip: ZipFile;
  readonly #entries: ReadonlyMap<string, Entry>;

  private constructor(
    zip: ZipFile,
    entries: ReadonlyMap<string, Entry>,
    manifest: ApplicationManifest,
  ) {
    this.#zip = zip;
    this.#entries = entries;
    this.manifest = manifest;
  }

  /** @throws Failure `package-damaged` where it is none, or not what it says of itself */
  static async open(path: string): Promise<OpenPackage> {
    let zip: ZipFile;
    try {
      zip = await fromFdPromise(openPlain(path), { autoClose: false, strictFileNames: true });
    } catch (cause) {
      throw damaged(cause);
    }
    try {
      const entries = new Map<string, Entry>();
      for await (const entry of zip.eachEntry()) {
        if (entries.size >= ENTRIES_MAX || entries.has(entry.fileName)) throw new Error('entries');
        entries.set(entry.fileName, entry);
      }
      const described = entries.get(MANIFEST);
      if (!described || described.uncompressedSize > MANIFEST_BYTES_MAX)
        throw new Error('manifest');
      const text = (await inOne(bytesOf(zip, described))).toString('utf8');
      const manifest = applicationManifestSchema.parse(JSON.parse(text));
      const paths = new Set(manifest.files.map((file) => file.path));
      const isSo = manifest.files.every(
        ({ path: name, bytes }) => entries.get(`data/${name}`)?.uncompressedSize === bytes,
      );
      if (!isSo || paths.size !== manifest.files.length) throw new Error('files');
      return new OpenPackage(zip, entries, manifest);
    } catch (cause) {
      zip.close();
      throw damaged(cause);
    }
  }

  get bytes(): number {
    return this.manifest.files.reduce((sum, file) => sum + file.bytes, 0);
  }

  /** A file's bytes, no more of them than it said. @throws Failure `package-damaged` */
  async *contents(path: string): AsyncGenerator<Uint8Array> {
    const entry = this.#entries.get(`data/${path}`);
    if (!entry) throw damaged(null);
    try {
      yield* bytesOf(this.#zip, entry);
    } catch (cause) {
      throw damaged(cause);
    }
  }

  /** Reads all of it: each file must be what its digest says. @throws Failure `package-damaged` */
  async check(onBytes: (bytes: number) => void, signal: AbortSignal): Promise<void> {
    for (const { path, sha512 } of this.manifest.files) {
      signal.throwIfAborted();
      const hash = createHash('sha512');
      for await (const piece of this.contents(path)) {
        hash.update(piece);
        onBytes(piece.length);
      }
      if (hash.digest('hex') !== sha512) throw damaged(null);
    }
  }

  close(): void {
    this.#zip.close();
  }
}

/** The library ends a stream that is longer or shorter than its entry said. */
async function* bytesOf(zip: ZipFile, entry: Entry): AsyncGenerator<Buffer> {
  const stream: AsyncIterable<Buffer> = await zip.openReadStreamPromise(entry);
  yield* stream;
}

const damaged = (cause: unknown) =>
  new Failure(
    'package-damaged',
    { what: 'That is no whole package of an application.' },
    { cause },
  );
