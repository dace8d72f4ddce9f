import { Failure } from '@bright-cellar/core';
import type { BackupLine, ItemRecord, PartLine } from './backup-lines.js';

/** Puts long items together from their part lines. Lines are given to it in order. */
export class ItemAssembler {
  #begun: PartLine[] = [];

  /** The part lines of an item that has been begun and not ended. */
  get beginning(): readonly PartLine[] {
    return this.#begun;
  }

  /**
   * @returns the whole item when this line is its last, null for any other line.
   * @throws Failure `archive-damaged` when its parts do not belong together.
   */
  take(line: BackupLine): ItemRecord | null {
    if (line.type === 'part') this.#takePart(line);
    if (line.type !== 'item') return null;
    const { type: _type, chunks, from, ...item } = line;
    const own = Buffer.from(chunks, 'hex');
    if (from === 0) return { ...item, chunks: own };
    const parts = this.#begun;
    this.#begun = [];
    if (!continues(parts.at(-1), line)) throw new Failure('archive-damaged');
    const before = parts.map((part) => Buffer.from(part.chunks, 'hex'));
    return { ...item, chunks: Buffer.concat([...before, own]) };
  }

  #takePart(part: PartLine): void {
    if (part.from === 0) this.#begun = [];
    else if (!continues(this.#begun.at(-1), part)) throw new Failure('archive-damaged');
    this.#begun.push(part);
  }
}

const continues = (
  before: PartLine | undefined,
  { path, mark, from }: { path: string; mark: string; from: number },
) => before?.path === path && before.mark === mark && before.to === from;
