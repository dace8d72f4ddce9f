import { hkdfSync, randomBytes } from 'node:crypto';
import { GEAR_BYTES } from '@bright-cellar/core';

export const KEY_BYTES = 32;

/** 32 random bytes from which every key of one archive is derived. Lives in memory only. */
export class ArchiveKey {
  readonly #bytes: Buffer;

  private constructor(bytes: Buffer) {
    this.#bytes = bytes;
  }

  static random(): ArchiveKey {
    return new ArchiveKey(randomBytes(KEY_BYTES));
  }

  /** @throws RangeError unless there are {@link KEY_BYTES} of them. */
  static of(bytes: Uint8Array): ArchiveKey {
    if (bytes.length !== KEY_BYTES) throw new RangeError('an archive key has 32 bytes');
    return new ArchiveKey(Buffer.from(bytes));
  }

  /** A copy, to be wrapped for a holder or handed to another thread. */
  bytes(): Buffer {
    return Buffer.from(this.#bytes);
  }

  /** The key of one sealed file: HKDF-SHA-256 (RFC 5869), bound to the file's kind and id. */
  derive(purpose: string, salt: Uint8Array, length = KEY_BYTES): Buffer {
    return Buffer.from(hkdfSync('sha256', this.#bytes, salt, `bright-cellar/1/${purpose}`, length));
  }

  /** The key under which chunks are identified: equal contents of two archives cannot be linked. */
  chunkIdKey(): Buffer {
    return this.derive('chunk-id', Buffer.alloc(0));
  }

  /** What the table for cutting is made of, so that the lengths of chunks say nothing to others. */
  cuttingMaterial(): Buffer {
    return this.derive('cutting', Buffer.alloc(0), GEAR_BYTES);
  }

  /** Overwrites the key. Nothing can be opened with it afterwards. */
  forget(): void {
    this.#bytes.fill(0);
  }
}
