import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import type { ArchiveKey } from '../keys/archive-key.js';
import { CONTEXT_BYTES, noteHandedOut } from '../tools/collect.js';

/**
 * A sealed file: a header in the clear, then frames of AES-256-GCM (NIST SP 800-38D). A frame's nonce
 * is its place in the file, so that none is used twice under a file's key and no frame can be moved,
 * dropped or added unseen. docs/archive-format.md has the bytes.
 */
export const sealedKinds = { pack: 1, backup: 2, index: 3, roster: 4 } as const;
export type SealedKind = keyof typeof sealedKinds;

const MAGIC = Buffer.from('BRCELLAR');
const VERSION = 1;
export const HEADER_BYTES = 32;
/** From here to the id there are zeros. */
const ZERO_OFFSET = 10;
const ID_OFFSET = 16;
export const ID_BYTES = HEADER_BYTES - ID_OFFSET;
export const FRAME_HEAD_BYTES = 8;
export const TAG_BYTES = 16;
export const FRAME_OVERHEAD = FRAME_HEAD_BYTES + TAG_BYTES;
/** No frame carries more, before compression or after. */
export const FRAME_MAX_PLAIN = 2 ** 20;
export const FRAME_MAX_BYTES = FRAME_MAX_PLAIN + FRAME_OVERHEAD;

const LENGTH_MASK = 0x0fff_ffff;
const COMPRESSED = 0x4000_0000;
const LAST = 0x8000_0000;
/** Node's cipher is fastest when fed pieces that stay in the fastest cache. */
const CIPHER_PIECE = 64 * 2 ** 10;

export function newSealedId(): Buffer {
  return randomBytes(ID_BYTES);
}

export function sealedHeader(kind: SealedKind, id: Uint8Array): Buffer {
  const header = Buffer.alloc(HEADER_BYTES);
  MAGIC.copy(header, 0);
  header.writeUInt8(VERSION, 8);
  header.writeUInt8(sealedKinds[kind], 9);
  header.set(id, ID_OFFSET);
  return header;
}

/** @throws Failure `archive-damaged` or, for a later version, `archive-format-unknown`. */
export function idOfHeader(header: Buffer, kind: SealedKind): Buffer {
  const ours = header.length === HEADER_BYTES && header.subarray(0, 8).equals(MAGIC);
  if (ours && header[8] !== VERSION) throw new Failure('archive-format-unknown');
  const sound = header.subarray(ZERO_OFFSET, ID_OFFSET).every((byte) => byte === 0);
  if (!ours || !sound || header[9] !== sealedKinds[kind]) throw new Failure('archive-damaged');
  return header.subarray(ID_OFFSET);
}

/** What a frame says of itself in the clear. */
export interface FrameHead {
  /** Bytes of ciphertext. */
  stored: number;
  /** Bytes of plaintext, after decompression. */
  plain: number;
  compressed: boolean;
  last: boolean;
}

/** @throws Failure `archive-damaged` for lengths that no writer makes: nothing is allocated for them. */
export function readFrameHead(bytes: Buffer, at = 0): FrameHead {
  const word = bytes.readUInt32BE(at);
  const head = {
    stored: word & LENGTH_MASK,
    plain: bytes.readUInt32BE(at + 4),
    compressed: (word & COMPRESSED) !== 0,
    last: (word & LAST) !== 0,
  };
  const sound =
    (word & 0x3000_0000) === 0 &&
    head.stored <= FRAME_MAX_PLAIN &&
    head.plain <= FRAME_MAX_PLAIN &&
    (head.compressed ? head.stored < head.plain : head.stored === head.plain) &&
    (!head.last || head.plain === 0);
  if (!sound) throw new Failure('archive-damaged');
  return head;
}

/** Seals and opens the frames of one file. */
export class FrameCipher {
  readonly #key: Buffer;
  readonly #nonce = Buffer.alloc(12);
  /** The associated data: the file's header, then the frame's head. */
  readonly #bound = Buffer.alloc(HEADER_BYTES + FRAME_HEAD_BYTES);

  constructor(key: ArchiveKey, kind: SealedKind, id: Uint8Array) {
    this.#key = key.derive(kind, id);
    sealedHeader(kind, id).copy(this.#bound);
  }

  /**
   * Seals one frame.
   * @param offset where in the file the frame will lie.
   * @param body the plaintext, or what zstd made of it when `plain` is larger.
   * @param target takes the frame at `at`; has room for {@link FRAME_OVERHEAD} more than the body.
   * @returns bytes written.
   */
  seal(
    offset: number,
    body: Uint8Array,
    plain: number,
    target: Buffer,
    at: number,
    last = false,
  ): number {
    const word = body.length | (body.length < plain ? COMPRESSED : 0) | (last ? LAST : 0);
    target.writeUInt32BE(word >>> 0, at);
    target.writeUInt32BE(plain, at + 4);
    target.copy(this.#bound, HEADER_BYTES, at, at + FRAME_HEAD_BYTES);
    const cipher = createCipheriv('aes-256-gcm', this.#key, this.#nonceAt(offset, last));
    noteHandedOut(CONTEXT_BYTES);
    cipher.setAAD(this.#bound);
    let to = at + FRAME_HEAD_BYTES;
    for (let from = 0; from < body.length; from += CIPHER_PIECE) {
      to += cipher.update(body.subarray(from, from + CIPHER_PIECE)).copy(target, to);
    }
    cipher.final();
    to += cipher.getAuthTag().copy(target, to);
    return to - at;
  }

  /**
   * What was sealed in a frame, still compressed if it was compressed.
   * @param frame the whole frame, head to tag.
   * @param target takes what was sealed; the result is a view of it.
   * @throws Failure `archive-damaged` when a single bit of it, or its place, differs.
   */
  open(offset: number, frame: Buffer, target: Buffer): { head: FrameHead; body: Buffer } {
    const head = readFrameHead(frame);
    if (frame.length !== head.stored + FRAME_OVERHEAD) throw new Failure('archive-damaged');
    frame.copy(this.#bound, HEADER_BYTES, 0, FRAME_HEAD_BYTES);
    const decipher = createDecipheriv('aes-256-gcm', this.#key, this.#nonceAt(offset, head.last), {
      authTagLength: TAG_BYTES,
    });
    noteHandedOut(CONTEXT_BYTES);
    decipher.setAAD(this.#bound);
    const end = FRAME_HEAD_BYTES + head.stored;
    decipher.setAuthTag(frame.subarray(end));
    const body = target.subarray(0, head.stored);
    try {
      for (let from = FRAME_HEAD_BYTES, to = 0; from < end; from += CIPHER_PIECE) {
        const piece = frame.subarray(from, Math.min(end, from + CIPHER_PIECE));
        to += decipher.update(piece).copy(body, to);
      }
      decipher.final();
    } catch (error) {
      throw new Failure('archive-damaged', {}, { cause: error });
    }
    return { head, body };
  }

  forget(): void {
    this.#key.fill(0);
  }

  #nonceAt(offset: number, last: boolean): Buffer {
    this.#nonce.writeUInt8(last ? 1 : 0, 3);
    this.#nonce.writeBigUInt64BE(BigInt(offset), 4);
    return this.#nonce;
  }
}
