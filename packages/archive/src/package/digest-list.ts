const DIGEST_BYTES = 64;

/** BLAKE2b-512 digests in the order in which they came, 64 bytes each and no more: a package can have half a million. */
export class DigestList {
  #bytes = Buffer.alloc(1024 * DIGEST_BYTES);
  #count = 0;

  /** @throws RangeError for anything that is not 64 bytes long. */
  add(digest: Uint8Array): void {
    if (digest.length !== DIGEST_BYTES) throw new RangeError('a digest has 64 bytes');
    const at = this.#count * DIGEST_BYTES;
    if (at === this.#bytes.length) this.#bytes = Buffer.concat([this.#bytes, Buffer.alloc(at)]);
    this.#bytes.set(digest, at);
    this.#count += 1;
  }

  /** In their order. */
  *[Symbol.iterator](): Generator<Buffer> {
    for (let number = 0; number < this.#count; number++) {
      yield this.#bytes.subarray(number * DIGEST_BYTES, (number + 1) * DIGEST_BYTES);
    }
  }
}
