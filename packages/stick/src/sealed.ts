import { Failure, zstdBlocksIn } from '@bright-cellar/core';
import { decompress } from 'fzstd';
import { part, type Readable } from './folder.js';

/** docs/archive-format.md, “Sealed files”. */
export const kinds = { pack: 1, backup: 2, index: 3, roster: 4 } as const;
export type Kind = keyof typeof kinds;

const HEADER_BYTES = 32;
const HEAD_BYTES = 8;
const TAG_BYTES = 16;
const FRAME_MAX_PLAIN = 2 ** 20;
const FRAME_BLOCKS_MAX = 64;

const ascii = new TextEncoder();

/** The key from which every other of an archive is made; it cannot be read again. */
export type ArchiveKey = CryptoKey;

export const archiveKey = (bytes: Uint8Array<ArrayBuffer>): Promise<ArchiveKey> =>
  crypto.subtle.importKey('raw', bytes, 'HKDF', false, ['deriveKey']);

/** One sealed file, opened frame by frame. */
export class SealedFile {
  readonly #file: Readable;
  readonly #header: Uint8Array;
  readonly #key: CryptoKey;

  private constructor(file: Readable, header: Uint8Array, key: CryptoKey) {
    this.#file = file;
    this.#header = header;
    this.#key = key;
  }

  /** @throws Failure `archive-damaged`, `archive-format-unknown`, `rack-not-here` */
  static async open(file: Readable | undefined, kind: Kind, key: ArchiveKey): Promise<SealedFile> {
    if (!file || file.size < HEADER_BYTES) throw new Failure('archive-damaged');
    const header = await part(file, 0, HEADER_BYTES);
    const magic = String.fromCharCode(...header.subarray(0, 8));
    if (magic === 'BRCELLAR' && header[8] !== 1) throw new Failure('archive-format-unknown');
    const isSound = header.subarray(10, 16).every((byte) => byte === 0);
    if (magic !== 'BRCELLAR' || header[9] !== kinds[kind] || !isSound)
      throw new Failure('archive-damaged');
    const fileKey = await crypto.subtle.deriveKey(
      {
        name: 'HKDF',
        hash: 'SHA-256',
        salt: header.slice(16),
        info: ascii.encode(`bright-cellar/1/${kind}`),
      },
      key,
      { name: 'AES-GCM', length: 256 },
      false,
      ['decrypt'],
    );
    return new SealedFile(file, header, fileKey);
  }

  /** What was sealed in every frame, in their order. Ends only after the frame that is the end of the file. */
  async *frames(): AsyncGenerator<Uint8Array> {
    for (let at = HEADER_BYTES; ;) {
      if (at + HEAD_BYTES + TAG_BYTES > this.#file.size) throw new Failure('archive-damaged');
      const { stored, isLast } = headOf(await part(this.#file, at, at + HEAD_BYTES));
      const plain = await this.frame(at, stored);
      at += HEAD_BYTES + stored + TAG_BYTES;
      if (isLast) {
        if (at !== this.#file.size) throw new Failure('archive-damaged');
        return;
      }
      yield plain;
    }
  }

  /**
   * One frame's plaintext.
   * @param at where in the file it begins
   * @param expected bytes of ciphertext
   */
  async frame(at: number, expected: number): Promise<Uint8Array> {
    const end = at + HEAD_BYTES + expected + TAG_BYTES;
    if (at < HEADER_BYTES || end > this.#file.size) throw new Failure('archive-damaged');
    const frame = await part(this.#file, at, end);
    const { stored, plain, isCompressed, isLast } = headOf(frame);
    if (stored !== expected) throw new Failure('archive-damaged');
    const iv = new Uint8Array(12);
    iv[3] = isLast ? 1 : 0;
    new DataView(iv.buffer).setBigUint64(4, BigInt(at));
    const bound = new Uint8Array(HEADER_BYTES + HEAD_BYTES);
    bound.set(this.#header);
    bound.set(frame.subarray(0, HEAD_BYTES), HEADER_BYTES);
    let body: Uint8Array;
    try {
      body = new Uint8Array(
        await crypto.subtle.decrypt(
          { name: 'AES-GCM', iv, additionalData: bound, tagLength: 8 * TAG_BYTES },
          this.#key,
          frame.slice(HEAD_BYTES),
        ),
      );
    } catch (cause) {
      throw new Failure('archive-damaged', {}, { cause });
    }
    return isCompressed ? unpacked(body, plain) : body;
  }
}

function headOf(bytes: Uint8Array) {
  const view = new DataView(bytes.buffer, bytes.byteOffset, HEAD_BYTES);
  const word = view.getUint32(0);
  const [stored, plain] = [word & 0x0fff_ffff, view.getUint32(4)];
  const isCompressed = (word & 0x4000_0000) !== 0;
  const isLast = word >>> 31 === 1;
  const isSound =
    (word & 0x3000_0000) === 0 &&
    stored <= FRAME_MAX_PLAIN &&
    plain <= FRAME_MAX_PLAIN &&
    (isCompressed ? stored < plain : stored === plain) &&
    (!isLast || plain === 0);
  if (!isSound) throw new Failure('archive-damaged');
  return { stored, plain, isCompressed, isLast };
}

/** Nothing is decompressed that could give more than it says. */
function unpacked(packed: Uint8Array, bytes: number): Uint8Array {
  const blocks = zstdBlocksIn(packed);
  if (blocks === null || blocks > FRAME_BLOCKS_MAX) throw new Failure('archive-damaged');
  let plain: Uint8Array;
  try {
    plain = decompress(packed);
  } catch (cause) {
    throw new Failure('archive-damaged', {}, { cause });
  }
  if (plain.length !== bytes) throw new Failure('archive-damaged');
  return plain;
}
