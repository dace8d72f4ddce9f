import {
  decodeLines,
  type BackupLine,
  type ItemLine,
  type ItemRecord,
  type NewItem,
  type PartLine,
} from '../format/backup-lines.js';
import { ItemAssembler } from '../format/item-assembler.js';
import type { SealedReader } from '../format/sealed-file.js';
import { collectGarbage, COLLECT_EVERY_BYTES } from '../tools/collect.js';
import { PathTable } from './path-table.js';

/** Lines of a frame are fewer than this: a place is frame × this + line. */
const LINES = 2 ** 21;
/** Frames whose lines are kept once they were read: items are asked for in about the list's own order. */
const KEPT_FRAMES = 8;

/** An item and the lines that it is made of. */
export interface FoundItem {
  item: ItemRecord;
  parts: PartLine[];
  line: ItemLine;
}

/**
 * The items of an earlier list, found by their path. Holds one number an item (see path-table.ts); the lines themselves are
 * read again when they are asked for, which is fast when that happens in the list's own order.
 */
export class EarlierItems {
  readonly #reader: SealedReader;
  readonly #frames: { offset: number; stored: number; plain: number }[] = [];
  readonly #places = new PathTable();
  readonly #kept = new Map<number, BackupLine[]>();
  #beginning: readonly PartLine[] = [];

  private constructor(reader: SealedReader) {
    this.#reader = reader;
  }

  /**
   * Looks through a list once.
   * @param torn whether the list may have been cut off.
   * @throws Failure `archive-damaged` when it must not and is.
   */
  static async read(reader: SealedReader, torn: boolean): Promise<EarlierItems> {
    const items = new EarlierItems(reader);
    const assembler = new ItemAssembler();
    let first = -1;
    let read = 0;
    const frames = torn ? reader.framesUntilTorn() : reader.frames();
    for await (const { offset, stored, plain } of frames) {
      const frame = items.#frames.push({ offset, stored, plain: plain.length }) - 1;
      const lines = [...decodeLines(plain)];
      if (frame < KEPT_FRAMES) items.#kept.set(frame, lines);
      for (const [number, line] of lines.entries()) {
        const place = frame * LINES + number;
        if (line.type === 'part' && line.from === 0) first = place;
        if (assembler.take(line) && line.type === 'item') {
          items.#places.set(line.path, line.from === 0 ? place : first);
        }
        // It was taken, and failed when it was told again: there is no item at this place, so none is found.
        if (line.type === 'failed' && items.#places.get(line.path) !== undefined) {
          items.#places.set(line.path, place);
        }
      }
      read += plain.length;
      if (read < COLLECT_EVERY_BYTES) continue;
      read = 0;
      await collectGarbage();
    }
    items.#beginning = assembler.beginning;
    return items;
  }

  /** As far as the long item was taken when this list was cut off. Empty for any other item. */
  beginningOf(path: string): readonly PartLine[] {
    return this.#beginning[0]?.path === path ? this.#beginning : [];
  }

  async find(path: string): Promise<FoundItem | null> {
    const place = this.#places.get(path);
    if (place === undefined) return null;
    const assembler = new ItemAssembler();
    const parts: PartLine[] = [];
    let number = place % LINES;
    for (let frame = Math.floor(place / LINES); frame < this.#frames.length; frame++) {
      const lines = await this.#linesOf(frame);
      for (const line of lines.slice(number)) {
        const item = assembler.take(line);
        if (line.type === 'part') parts.push(line);
        // Two paths may have the same key: the later one is found, the other is read again.
        if (item && line.type === 'item') return item.path === path ? { item, parts, line } : null;
      }
      number = 0;
    }
    return null;
  }

  /** Whether an item is here exactly as it is now, as far as its mark tells. */
  async has(item: NewItem): Promise<boolean> {
    const found = await this.find(item.path);
    return found !== null && isSame(found.item, item);
  }

  close(): void {
    this.#reader.close();
  }

  async #linesOf(frame: number): Promise<BackupLine[]> {
    const kept = this.#kept.get(frame);
    if (kept) return kept;
    const place = this.#frames[frame];
    if (!place) return [];
    const { offset, stored, plain } = place;
    const lines = [...decodeLines(await this.#reader.readAt(offset, stored, plain))];
    this.#kept.set(frame, lines);
    if (this.#kept.size > KEPT_FRAMES) {
      for (const oldest of this.#kept.keys()) {
        this.#kept.delete(oldest);
        break;
      }
    }
    return lines;
  }
}

export const isSame = (earlier: ItemRecord, item: NewItem) =>
  item.mark !== '' &&
  earlier.mark === item.mark &&
  earlier.bytes === item.bytes &&
  earlier.kind === item.kind;
