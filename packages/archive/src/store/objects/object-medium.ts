import { createHash } from 'node:crypto';
import {
  AbortMultipartUploadCommand,
  CompleteMultipartUploadCommand,
  CopyObjectCommand,
  CreateMultipartUploadCommand,
  DeleteObjectCommand,
  GetObjectCommand,
  HeadObjectCommand,
  ListMultipartUploadsCommand,
  ListObjectsV2Command,
  ListPartsCommand,
  PutObjectCommand,
  UploadPartCommand,
  UploadPartCopyCommand,
  type S3Client,
} from '@aws-sdk/client-s3';
import { codeOf } from '../../disk/errors.js';
import { atOnce } from '../remote/at-once.js';
import { codedError, type Medium } from '../remote/medium.js';
import type { Contents, PutMode, Room, Stored, StoredFile } from '../store.js';
import type { ObjectsAddress } from './address.js';
import { clientOf, posixOf } from './bucket.js';

/** What is longer comes in parts of this size: whatever was cut off goes on with the part that it was at. */
const PART = 8 * 2 ** 20;
/** What is read ahead, and what is read at once when a file is opened. */
const AHEAD = 4 * 2 ** 20;
const WHOLE = 2 ** 20;
/** What was begun so long ago is not going on. */
const STALE_MS = 24 * 3_600_000;
/** Adding up what lies there takes a request for every thousand files. */
const USED_FOR_MS = 30_000;

interface Part {
  PartNumber: number;
  ETag: string;
}

/** A part of a bucket. Whole objects are put in one request or in parts, and appear whole or not at all. */
export class ObjectMedium implements Medium {
  readonly #client: S3Client;
  readonly #address: ObjectsAddress;
  #used: { bytes: number; at: number } | null = null;

  constructor(address: ObjectsAddress) {
    this.#address = address;
    this.#client = clientOf(address);
  }

  async room(): Promise<Room> {
    // Whoever asks again has what was added up last, at once.
    if (!this.#used) await this.#addUp();
    else if (performance.now() - this.#used.at > USED_FOR_MS) {
      this.#used.at = performance.now();
      this.#addUp().catch(() => undefined);
    }
    const { capacity } = this.#address;
    return { capacity, free: Math.max(0, capacity - (this.#used?.bytes ?? 0)) };
  }

  async #addUp(): Promise<void> {
    const at = performance.now();
    const all = await this.list('');
    this.#used = { bytes: all.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0), at };
  }

  async list(prefix: string): Promise<Stored[]> {
    const { Bucket } = this.#of('');
    const own = this.#address.prefix;
    const found: Stored[] = [];
    let token: string | undefined;
    do {
      const page = await this.#ask(() =>
        this.#client.send(
          new ListObjectsV2Command({ Bucket, Prefix: own + prefix, ContinuationToken: token }),
        ),
      );
      for (const { Key = '', Size = 0 } of page.Contents ?? []) {
        found.push({ name: Key.slice(own.length), bytes: Size });
      }
      token = page.IsTruncated ? page.NextContinuationToken : undefined;
    } while (token !== undefined);
    return found.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  async folders(): Promise<string[]> {
    const { Bucket, Key } = this.#of('');
    const found: string[] = [];
    let token: string | undefined;
    do {
      const page = await this.#ask(() =>
        this.#client.send(
          new ListObjectsV2Command({
            ...{ Bucket, Prefix: Key, Delimiter: '/', ContinuationToken: token },
          }),
        ),
      );
      for (const { Prefix = '' } of page.CommonPrefixes ?? []) {
        found.push(Prefix.slice(Key.length, -1));
      }
      token = page.IsTruncated ? page.NextContinuationToken : undefined;
    } while (token !== undefined);
    return found;
  }

  /** What is short is read whole at once: it can be read to its end though somebody removes it. */
  async open(name: string): Promise<StoredFile> {
    const head = await this.#ask(() => this.#client.send(new HeadObjectCommand(this.#of(name))));
    const { ContentLength: size = 0, ETag = '' } = head;
    const first = await this.#range(name, 0, Math.min(size, WHOLE), ETag);
    return new ObjectFile(size, first, (from, length) => this.#range(name, from, length, ETag));
  }

  async #range(name: string, from: number, length: number, IfMatch: string): Promise<Uint8Array> {
    if (length === 0) return new Uint8Array(0);
    const Range = `bytes=${from}-${from + length - 1}`;
    // Read within what is tried again: an answer can be cut off in the middle.
    return this.#ask(async () => {
      for (let tries = 0; ; tries++) {
        try {
          const { Body } = await this.#client.send(
            new GetObjectCommand({ ...this.#of(name), Range, IfMatch }),
          );
          const bytes = (await Body?.transformToByteArray()) ?? new Uint8Array(0);
          // What is as long by its name and comes shorter was cut off on its way.
          if (bytes.length !== length) throw codedError('ENOTCONN');
          return bytes;
        } catch (error) {
          if (tries > 2 || codeOf(posixOf(error)) !== 'ENOTCONN') throw error;
        }
      }
    });
  }

  async put(name: string, contents: Contents, how: PutMode): Promise<void> {
    const condition = how === 'if-absent' ? { IfNoneMatch: '*' } : {};
    const parts = partsOf(contents);
    const first = (await parts.next()).value ?? Buffer.alloc(0);
    if (first.length < PART) {
      await this.#ask(() =>
        this.#client.send(new PutObjectCommand({ ...this.#of(name), ...condition, Body: first })),
      );
      return;
    }
    const { UploadId, known } = await this.#begunUpload(name);
    const sent: Part[] = [];
    const send = async (PartNumber: number, Body: Buffer) => {
      let ETag = `"${createHash('md5').update(Body).digest('hex')}"`;
      if (known.get(PartNumber) !== ETag) {
        const upload = { ...this.#of(name), UploadId, PartNumber, Body };
        const made = await this.#ask(() => this.#client.send(new UploadPartCommand(upload)));
        // Where the storage seals what it keeps, a part's tag is none of its bytes.
        ETag = made.ETag ?? ETag;
      }
      sent.push({ PartNumber, ETag });
    };
    await send(1, first);
    for await (const part of parts) await send(sent.length + 1, part);
    await this.#ask(() =>
      this.#client.send(
        new CompleteMultipartUploadCommand({
          ...{ ...this.#of(name), ...condition, UploadId, MultipartUpload: { Parts: sent } },
        }),
      ),
    );
  }

  /** One that was begun and cut off, with the parts that came; or a new one. */
  async #begunUpload(name: string): Promise<{ UploadId: string; known: Map<number, string> }> {
    const { Bucket, Key } = this.#of(name);
    const { Uploads = [] } = await this.#ask(() =>
      this.#client.send(new ListMultipartUploadsCommand({ Bucket, Prefix: Key })),
    );
    const begun = Uploads.find((upload) => upload.Key === Key)?.UploadId;
    if (begun === undefined) {
      const { UploadId = '' } = await this.#ask(() =>
        this.#client.send(new CreateMultipartUploadCommand({ Bucket, Key })),
      );
      return { UploadId, known: new Map() };
    }
    const known = new Map<number, string>();
    let PartNumberMarker: string | undefined;
    do {
      const page = await this.#ask(() =>
        this.#client.send(new ListPartsCommand({ Bucket, Key, UploadId: begun, PartNumberMarker })),
      );
      for (const { PartNumber = 0, ETag = '' } of page.Parts ?? []) known.set(PartNumber, ETag);
      PartNumberMarker = page.IsTruncated ? page.NextPartNumberMarker : undefined;
    } while (PartNumberMarker !== undefined);
    return { UploadId: begun, known };
  }

  /**
   * The storage copies it itself, in the parts that it came in: what it has after has the same tag, which is made of the
   * digests of what it holds.
   */
  async move(from: string, to: string): Promise<void> {
    const head = await this.#ask(() => this.#client.send(new HeadObjectCommand(this.#of(from))));
    const { ContentLength: size = 0, ETag = '' } = head;
    const made = size < PART ? await this.#copy(from, to) : await this.#copyParts(from, to, size);
    if (made !== ETag && !(await this.#isSame(from, to))) throw codedError('EIO');
    await this.remove(from);
  }

  async #copy(from: string, to: string): Promise<string> {
    const { CopyObjectResult } = await this.#ask(() =>
      this.#client.send(new CopyObjectCommand({ ...this.#of(to), CopySource: this.#source(from) })),
    );
    return CopyObjectResult?.ETag ?? '';
  }

  async #copyParts(from: string, to: string, size: number): Promise<string> {
    const { UploadId } = await this.#begunUpload(to);
    const Parts: Part[] = [];
    for (let at = 0; at < size; at += PART) {
      const PartNumber = at / PART + 1;
      const range = `bytes=${at}-${Math.min(size, at + PART) - 1}`;
      const { CopyPartResult } = await this.#ask(() =>
        this.#client.send(
          new UploadPartCopyCommand({
            ...{ ...this.#of(to), UploadId, PartNumber, CopySourceRange: range },
            CopySource: this.#source(from),
          }),
        ),
      );
      Parts.push({ PartNumber, ETag: CopyPartResult?.ETag ?? '' });
    }
    const { ETag = '' } = await this.#ask(() =>
      this.#client.send(
        new CompleteMultipartUploadCommand({
          ...{ ...this.#of(to), UploadId, MultipartUpload: { Parts } },
        }),
      ),
    );
    return ETag;
  }

  /** Where tags say nothing, as where the storage seals what it keeps: both are read. */
  async #isSame(one: string, other: string): Promise<boolean> {
    const digests = await Promise.all([one, other].map((name) => this.#digest(name)));
    return digests[0] === digests[1];
  }

  async #digest(name: string): Promise<string> {
    const hash = createHash('sha512');
    const file = await this.open(name);
    const piece = new Uint8Array(WHOLE);
    for (let at = 0; at < file.size;) {
      const count = await file.read(piece, at);
      if (count === 0) break;
      hash.update(piece.subarray(0, count));
      at += count;
    }
    return hash.digest('hex');
  }

  async remove(name: string): Promise<void> {
    await this.#ask(() => this.#client.send(new DeleteObjectCommand(this.#of(name))));
  }

  async removeAll(prefix: string): Promise<void> {
    await atOnce(await this.list(prefix), ({ name }) => this.remove(name));
    await this.#abort(prefix, () => true);
  }

  /** Such storage keeps no places: where it puts other bytes of the same name is its own matter. */
  async overwrite(): Promise<void> {}

  async writtenAt(name: string): Promise<number | null> {
    try {
      const { LastModified } = await this.#ask(() =>
        this.#client.send(new HeadObjectCommand(this.#of(name))),
      );
      return LastModified?.getTime() ?? null;
    } catch (error) {
      if (codeOf(error) === 'ENOENT') return null;
      throw error;
    }
  }

  async tidy(): Promise<void> {
    await this.#abort('', (begun) => Date.now() - begun > STALE_MS);
  }

  async #abort(prefix: string, which: (begunAt: number) => boolean): Promise<void> {
    const { Bucket, Key } = this.#of(prefix);
    const { Uploads = [] } = await this.#ask(() =>
      this.#client.send(new ListMultipartUploadsCommand({ Bucket, Prefix: Key })),
    );
    for (const { Key: key, UploadId, Initiated } of Uploads) {
      if (!which(Initiated?.getTime() ?? 0)) continue;
      await this.#ask(() =>
        this.#client.send(new AbortMultipartUploadCommand({ Bucket, Key: key, UploadId })),
      );
    }
  }

  #of(name: string): { Bucket: string; Key: string } {
    return { Bucket: this.#address.bucket, Key: this.#address.prefix + name };
  }

  #source(name: string): string {
    const { Bucket, Key } = this.#of(name);
    return `${Bucket}/${Key.split('/').map(encodeURIComponent).join('/')}`;
  }

  async #ask<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (error) {
      throw posixOf(error);
    }
  }
}

/** Reads ahead where it is read from front to back, and just what is wanted elsewhere. */
class ObjectFile implements StoredFile {
  readonly size: number;
  readonly #range: (from: number, length: number) => Promise<Uint8Array>;
  #has: { from: number; bytes: Uint8Array };
  #next = 0;

  constructor(
    size: number,
    first: Uint8Array,
    range: (from: number, length: number) => Promise<Uint8Array>,
  ) {
    this.size = size;
    this.#has = { from: 0, bytes: first };
    this.#range = range;
  }

  async read(into: Uint8Array, from: number): Promise<number> {
    const length = Math.min(into.length, this.size - from);
    if (length <= 0) return 0;
    const { from: start, bytes } = this.#has;
    if (from < start || from >= start + bytes.length) {
      const wanted = from === this.#next ? Math.max(length, AHEAD) : length;
      const range = await this.#range(from, Math.min(wanted, this.size - from));
      this.#has = { from, bytes: range };
    }
    const at = from - this.#has.from;
    const some = this.#has.bytes.subarray(at, at + length);
    into.set(some);
    this.#next = from + some.length;
    return some.length;
  }

  close(): void {
    this.#has = { from: 0, bytes: new Uint8Array(0) };
  }
}

/** Contents in parts of the same size, the last of which may be shorter. */
async function* partsOf(contents: Contents): AsyncGenerator<Buffer, undefined> {
  const source =
    typeof contents === 'string' || contents instanceof Uint8Array
      ? [Buffer.from(contents)]
      : contents;
  let gathered: Buffer[] = [];
  let length = 0;
  for await (const piece of source) {
    for (let rest = Buffer.from(piece); rest.length > 0;) {
      const some = rest.subarray(0, PART - length);
      gathered.push(some);
      length += some.length;
      rest = rest.subarray(some.length);
      if (length < PART) continue;
      yield Buffer.concat(gathered);
      gathered = [];
      length = 0;
    }
  }
  if (length > 0) yield Buffer.concat(gathered);
}
