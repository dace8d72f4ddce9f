import { SEGMENT_BYTES } from '@bright-cellar/core';
import {
  CHUNKS_IN_LINE_MAX,
  type FailedItem,
  type NewItem,
  type PartLine,
} from '../format/backup-lines.js';
import { CHUNK_ID_BYTES } from '../format/chunk-index.js';
import type { ListWriter } from '../format/list-writer.js';
import type { FoundItem } from './earlier-items.js';
import type { ReadFailure } from './source-file.js';

/** A long item's chunks so far are written down after this many bytes of it. */
const PART_BYTES = 64 * 2 ** 20;

/** How one item went. */
export type Outcome = { taken: true } | { taken: false; failure: ReadFailure };

/** Writes the list of a backup as results come, in the order in which the items were added. */
export class ListRecorder {
  readonly #list: Pick<ListWriter, 'add'>;
  readonly counts = { items: 0, bytes: 0, failed: 0, newItems: 0 };
  #item: NewItem | null = null;
  #chunks: Buffer[] = [];
  #count = 0;
  /** Where in the item the gathered chunks begin and end. */
  #from = 0;
  #to = 0;
  #failure: ReadFailure | null = null;

  constructor(list: Pick<ListWriter, 'add'>) {
    this.#list = list;
  }

  /** @param beginning of the item, where an earlier run has taken one. */
  begin(item: NewItem, beginning: readonly PartLine[]): void {
    for (const part of beginning) this.#list.add(part);
    const taken = beginning.at(-1)?.to ?? 0;
    this.#item = item;
    this.#chunks = [];
    this.#count = 0;
    this.#from = taken;
    this.#to = taken;
    this.#failure = null;
  }

  part(bytes: number, chunks: Uint8Array): void {
    this.#gather(Buffer.from(chunks));
    this.#to += bytes;
    if (this.#count > CHUNKS_IN_LINE_MAX / 2 || this.#to - this.#from >= PART_BYTES) {
      this.#writePart();
    }
  }

  /** Writes down how far a long item has come, so that it can go on from there. */
  writeBegun(): void {
    const isWhole = this.#to % SEGMENT_BYTES === 0;
    if (this.#item && !this.#failure && this.#to > this.#from && isWhole) this.#writePart();
  }

  partFailed(failure: ReadFailure): void {
    this.#failure ??= failure;
  }

  /** Ends the item that was begun. */
  end(): Outcome {
    if (this.#failure) return { taken: false, failure: this.#failure };
    if (this.#item) {
      const item = { ...this.#item, bytes: this.#to };
      const chunks = Buffer.concat(this.#chunks).toString('hex');
      this.#list.add({ type: 'item', ...item, from: this.#from, chunks });
      this.counts.items += 1;
      this.counts.bytes += item.bytes;
      this.#item = null;
    }
    return { taken: true };
  }

  /** An item whose chunks are all in the archive, as an earlier list has them. */
  reuse(item: NewItem, { parts, line }: FoundItem): void {
    for (const part of parts) this.#list.add(part);
    this.#list.add({ type: 'item', ...item, from: line.from, chunks: line.chunks });
    this.counts.items += 1;
    this.counts.bytes += item.bytes;
  }

  failed(item: Omit<FailedItem, 'type'>): void {
    this.counts.failed += 1;
    this.#list.add({ type: 'failed', ...item });
  }

  #gather(chunks: Buffer): void {
    this.#chunks.push(chunks);
    this.#count += chunks.length / CHUNK_ID_BYTES;
  }

  #writePart(): void {
    if (!this.#item) return;
    const { path, mark } = this.#item;
    const chunks = Buffer.concat(this.#chunks).toString('hex');
    this.#list.add({ type: 'part', path, mark, from: this.#from, to: this.#to, chunks });
    this.#from = this.#to;
    this.#chunks = [];
    this.#count = 0;
  }
}
