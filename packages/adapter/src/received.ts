import { rm } from 'node:fs/promises';
import { LinkError, type NewEntry } from '@bright-cellar/device-link';
import { placeOf, writeEntry } from './folder-writer.js';

/** What a restore has received so far, in the folder where it gathers: each entry once, as it came last. */
export class Received {
  readonly folder: string;
  readonly #bytesOf = new Map<string, number>();
  bytes = 0;

  constructor(folder: string) {
    this.folder = folder;
  }

  /** Puts an entry there, in place of what was there under its path. @returns how many bytes of it are there */
  async take(entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number> {
    if (this.#bytesOf.has(entry.path)) await this.drop(entry.path);
    const received = await writeEntry(this.folder, entry, contents);
    this.#bytesOf.set(entry.path, received);
    this.bytes += received;
    return received;
  }

  /** @throws LinkError `no-such-entry` where it did not come */
  async drop(path: string): Promise<void> {
    const bytes = this.#bytesOf.get(path);
    if (bytes === undefined) throw new LinkError('no-such-entry');
    await rm(await placeOf(this.folder, path), { recursive: true, force: true });
    this.#bytesOf.delete(path);
    this.bytes -= bytes;
  }

  /** @throws LinkError `not-valid` where something else was sent */
  mustBe(sent: { items: number; bytes: number }): void {
    if (this.#bytesOf.size !== sent.items || this.bytes !== sent.bytes) {
      throw new LinkError('not-valid');
    }
  }
}
