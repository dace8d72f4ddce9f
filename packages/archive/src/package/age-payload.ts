import {
  createCipheriv,
  createDecipheriv,
  hkdfSync,
  randomBytes,
  type CipherGCMTypes,
} from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import { Decrypter, Encrypter, type Recipient } from 'age-encryption';
import { PasswordIdentity, PasswordRecipient } from '../keys/passphrase.js';
import {
  CONTEXT_BYTES,
  noteHandedOut,
  collectGarbage,
  COLLECT_EVERY_BYTES,
} from '../tools/collect.js';

/**
 * age v1 files (C2SP age specification) of any length. The header is the library's; the payload, STREAM
 * over ChaCha20-Poly1305 in pieces of 64 KiB, is sealed with Node's own cipher, which is many times faster
 * than the library's.
 */
const PIECE_BYTES = 64 * 2 ** 10;
const TAG_BYTES = 16;
export const SEALED_PIECE_BYTES = PIECE_BYTES + TAG_BYTES;
const NONCE_BYTES = 16;
// Node's types know it as one of the AEAD modes only under its own name.
const CIPHER = 'chacha20-poly1305' satisfies string as unknown as CipherGCMTypes;

export type AgeRecipient = { password: string } | { recipient: string };
export type AgeSecret = { password: string } | { identity: string };

/** What a file begins with, and the key of its payload. */
export interface AgeBeginning {
  /** Header and nonce. */
  bytes: Buffer;
  payloadKey: Buffer;
}

const payloadKeyOf = (fileKey: Uint8Array, nonce: Uint8Array) =>
  Buffer.from(hkdfSync('sha256', fileKey, nonce, 'payload', 32));

/** @throws Failure `input-not-valid` for a recipient that is none. */
export async function beginAge(to: AgeRecipient): Promise<AgeBeginning> {
  const encrypter = new Encrypter();
  let fileKey = Buffer.alloc(0);
  const overhear = (key: Uint8Array) => {
    fileKey = Buffer.from(key);
  };
  if ('password' in to) {
    const recipient = new PasswordRecipient(to.password);
    encrypter.addRecipient(overheard(recipient, overhear));
  } else {
    try {
      encrypter.addRecipient(to.recipient);
    } catch (error) {
      throw new Failure('input-not-valid', { what: 'That is no age recipient.' }, { cause: error });
    }
    encrypter.addRecipient({
      wrapFileKey: async (key) => {
        overhear(key);
        return [];
      },
    });
  }
  const empty = await encrypter.encrypt(new Uint8Array());
  const header = Buffer.from(empty.subarray(0, empty.length - NONCE_BYTES - TAG_BYTES));
  const nonce = randomBytes(NONCE_BYTES);
  const payloadKey = payloadKeyOf(fileKey, nonce);
  fileKey.fill(0);
  return { bytes: Buffer.concat([header, nonce]), payloadKey };
}

const overheard = (recipient: Recipient, overhear: (key: Uint8Array) => void): Recipient => ({
  wrapFileKey(key) {
    overhear(key);
    return recipient.wrapFileKey(key);
  },
});

function pieceNonce(number: number, last: boolean): Buffer {
  const nonce = Buffer.alloc(12);
  nonce.writeBigUInt64BE(BigInt(number), 3);
  nonce.writeUInt8(last ? 1 : 0, 11);
  return nonce;
}

/** Seals a payload front to back, whatever the lengths in which it comes. */
export class AgeSealer {
  readonly #key: Buffer;
  readonly #held = Buffer.allocUnsafeSlow(PIECE_BYTES);
  #filled = 0;
  #number = 0;

  constructor(payloadKey: Uint8Array) {
    this.#key = Buffer.from(payloadKey);
  }

  /** Sealed bytes for what came in; the newest piece is held back, since it may be the last. */
  seal(bytes: Uint8Array): Buffer[] {
    const sealed: Buffer[] = [];
    for (let at = 0; at < bytes.length;) {
      if (this.#filled === PIECE_BYTES) sealed.push(...this.#piece(this.#held, false));
      const whole = this.#filled === 0 && bytes.length - at > PIECE_BYTES;
      if (whole) {
        sealed.push(...this.#piece(bytes.subarray(at, at + PIECE_BYTES), false));
        at += PIECE_BYTES;
        continue;
      }
      const count = Math.min(bytes.length - at, PIECE_BYTES - this.#filled);
      this.#held.set(bytes.subarray(at, at + count), this.#filled);
      this.#filled += count;
      at += count;
    }
    return sealed;
  }

  finish(): Buffer[] {
    const sealed = this.#piece(this.#held.subarray(0, this.#filled), true);
    this.#key.fill(0);
    return sealed;
  }

  #piece(piece: Uint8Array, last: boolean): Buffer[] {
    const cipher = createCipheriv(CIPHER, this.#key, pieceNonce(this.#number++, last), {
      authTagLength: TAG_BYTES,
    });
    noteHandedOut(CONTEXT_BYTES);
    const body = cipher.update(piece);
    cipher.final();
    this.#filled = 0;
    return [body, cipher.getAuthTag()];
  }
}

/** Longer headers are nobody's. */
const HEADER_MAX = 64 * 2 ** 10;

/**
 * The payload of an age file, piece by piece.
 * @throws Failure `wrong-password`, `package-damaged` at the first piece that is not what was written, or when the end is missing.
 */
export async function* openAge(
  file: AsyncIterable<Uint8Array>,
  secret: AgeSecret,
): AsyncGenerator<Buffer> {
  // Put together once they are enough for a piece: at each that comes, all that is held would be copied again.
  let parts: Buffer[] = [];
  let length = 0;
  let key: Buffer | null = null;
  let number = 0;
  let opened = 0;
  for await (const bytes of file) {
    parts.push(Buffer.from(bytes));
    length += bytes.length;
    if (key && length <= SEALED_PIECE_BYTES) continue;
    let held = together(parts);
    parts = [held];
    if (!key) {
      const header = headerOf(held);
      if (!header || held.length < header.length + NONCE_BYTES) {
        if (held.length > HEADER_MAX) throw damaged();
        continue;
      }
      const nonce = held.subarray(header.length, header.length + NONCE_BYTES);
      key = payloadKeyOf(await fileKeyOf(header, secret), nonce);
      held = held.subarray(header.length + NONCE_BYTES);
    }
    let at = 0;
    // One that ends here may be the last.
    for (; held.length - at > SEALED_PIECE_BYTES; at += SEALED_PIECE_BYTES) {
      yield openPiece(key, held.subarray(at, at + SEALED_PIECE_BYTES), number++, false);
    }
    parts = [held.subarray(at)];
    length = held.length - at;
    opened += at;
    if (opened < COLLECT_EVERY_BYTES) continue;
    opened = 0;
    await collectGarbage();
  }
  if (!key || length < TAG_BYTES) throw damaged();
  const last = openPiece(key, together(parts), number, true);
  if (last.length === 0 && number > 0) throw damaged();
  if (last.length > 0) yield last;
}

const together = (parts: Buffer[]): Buffer =>
  parts.length === 1 && parts[0] ? parts[0] : Buffer.concat(parts);

function damaged(cause?: unknown): Failure {
  return new Failure('package-damaged', {}, { cause });
}

function headerOf(bytes: Buffer): Buffer | null {
  const mac = bytes.indexOf('\n---');
  const end = mac < 0 ? -1 : bytes.indexOf('\n', mac + 1);
  return end < 0 ? null : bytes.subarray(0, end + 1);
}

async function fileKeyOf(header: Buffer, secret: AgeSecret): Promise<Uint8Array> {
  const decrypter = new Decrypter();
  try {
    if ('password' in secret) decrypter.addIdentity(new PasswordIdentity(secret.password));
    else decrypter.addIdentity(secret.identity);
    return await decrypter.decryptHeader(header);
  } catch (error) {
    if (error instanceof Error && error.message.includes('no identity matched')) {
      throw new Failure('wrong-password');
    }
    throw damaged(error);
  }
}

function openPiece(key: Buffer, sealed: Buffer, number: number, last: boolean): Buffer {
  const end = sealed.length - TAG_BYTES;
  const decipher = createDecipheriv(CIPHER, key, pieceNonce(number, last), {
    authTagLength: TAG_BYTES,
  });
  noteHandedOut(CONTEXT_BYTES);
  decipher.setAuthTag(sealed.subarray(end));
  try {
    const plain = decipher.update(sealed.subarray(0, end));
    decipher.final();
    return plain;
  } catch (error) {
    throw damaged(error);
  }
}
