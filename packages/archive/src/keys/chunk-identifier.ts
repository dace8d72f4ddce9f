import { Blake3Hasher } from '../tools/native.js';
import type { ArchiveKey } from './archive-key.js';

/** A chunk's id: keyed BLAKE3 over its bytes. */
export class ChunkIdentifier {
  readonly #hasher: InstanceType<typeof Blake3Hasher>;

  constructor(key: ArchiveKey) {
    this.#hasher = Blake3Hasher.newKeyed(key.chunkIdKey());
  }

  idOf(chunk: Uint8Array): Buffer {
    this.#hasher.reset();
    return this.#hasher.update(chunk).digestBuffer();
  }
}
