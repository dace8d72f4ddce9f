import { decodeLines, type BackupLine, type NewItem } from '../format/backup-lines.js';
import { SealedReader } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { EarlierItems } from './earlier-items.js';
import type { Files } from '../store/store.js';
import { PathTable } from './path-table.js';

/**
 * Another look at a source that changed while it was read: which lines of a list that is being written still count.
 * Of an item that was told more than once the last word counts; what the last look did not find is not there any more.
 */
export class Review {
  #before: EarlierItems | null = null;
  #listed = new PathTable();
  /** Items that were told again: few, since most of a device stays as it is. */
  readonly #replaced = new Set<string>();

  /** @param list name of the list, as far as it is written */
  async begin(work: Files, list: string, key: ArchiveKey): Promise<void> {
    this.close();
    this.#listed = new PathTable();
    const reader = await SealedReader.open(work, list, 'backup', key);
    this.#before = await EarlierItems.read(reader, true);
  }

  async stays(item: NewItem): Promise<boolean> {
    this.#listed.set(item.path, 1);
    return (await this.#before?.has(item)) ?? false;
  }

  replace(path: string): void {
    this.#listed.set(path, 1);
    this.#replaced.add(path);
  }

  /** Every line, and whether it still counts. */
  async *sift(
    work: Files,
    list: string,
    key: ArchiveKey,
  ): AsyncGenerator<{ line: BackupLine; isKept: boolean }> {
    // Of each item that was told again: its last line, and the one before. What counts lies after that one, up to the last.
    const told = new Map<string, { last: number; before: number }>();
    let number = 0;
    for await (const line of linesOf(work, list, key)) {
      number += 1;
      if ((line.type !== 'item' && line.type !== 'failed') || !this.#replaced.has(line.path))
        continue;
      told.set(line.path, { last: number, before: told.get(line.path)?.last ?? 0 });
    }
    number = 0;
    for await (const line of linesOf(work, list, key)) {
      number += 1;
      if (!('path' in line)) {
        yield { line, isKept: true };
        continue;
      }
      const counts = told.get(line.path);
      const isLast = !counts || (number > counts.before && number <= counts.last);
      yield { line, isKept: isLast && this.#listed.get(line.path) !== undefined };
    }
  }

  close(): void {
    this.#before?.close();
    this.#before = null;
  }
}

async function* linesOf(work: Files, list: string, key: ArchiveKey): AsyncGenerator<BackupLine> {
  const reader = await SealedReader.open(work, list, 'backup', key);
  try {
    for await (const { plain } of reader.framesUntilTorn()) yield* decodeLines(plain);
  } finally {
    reader.close();
  }
}
