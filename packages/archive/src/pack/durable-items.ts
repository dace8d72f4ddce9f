import { basename } from 'node:path';
import { Failure } from '@bright-cellar/core';
import type { BackupLine, ItemRecord } from '../format/backup-lines.js';
import { CHUNK_ID_BYTES, type PackBlock } from '../format/chunk-index.js';
import { ItemAssembler } from '../format/item-assembler.js';
import type { Roster } from '../format/roster.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { readBlocks } from '../open/blocks.js';
import { ChunkOpener } from '../open/chunk-opener.js';
import { ChunkPlaces } from '../open/chunk-places.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { FolderFiles } from '../store/folder-files.js';
import type { Files } from '../store/store.js';

/** What waits for its packs, or for whoever takes it, holds at most so many bytes; from then on nothing more is gathered. */
const HELD_MAX = 64 * 2 ** 20;
/** What an item takes in memory beside the ids of its chunks, about. */
const ITEM_HELD = 400;
const FORGET_EVERY = 1_000;

/** Some chunks of an archive: where they lie, and who opens them. */
interface Shelf {
  places: ChunkPlaces;
  packs: string[];
  opener: ChunkOpener;
}

/**
 * Items of a backup that is still being taken, each as soon as all that it is made of is on the medium: whoever sends them
 * further meanwhile takes them from here. It may be told less than all of them: what is missing is in the backup once that is
 * committed, and so is what an item became that changed meanwhile. Chunks are opened in this thread.
 */
export class DurableItems {
  readonly #assembler = new ItemAssembler();
  readonly #shelves: readonly [pending: Shelf, earlier: Shelf];
  #waiting: ItemRecord[] = [];
  /** So many of those that wait were taken. */
  #given = 0;
  #held = 0;
  #isGathering = true;
  #isOver = false;
  #wake = () => {};

  readonly #onStarved: () => void;

  private constructor(pending: Shelf, earlier: Shelf, onStarved: () => void) {
    this.#shelves = [pending, earlier];
    this.#onStarved = onStarved;
  }

  /**
   * @param roster of the archive that it goes into; null for a new one
   * @param pending path of the folder that takes the packs
   * @param earlierRuns packs in it of a run that was cut off, which goes on
   * @param onStarved told each time that somebody waits for an item whose packs are not on the medium yet
   */
  static async begin(ground: {
    files: ArchiveFiles;
    roster: Roster | null;
    pending: string;
    earlierRuns: AsyncIterable<PackBlock>;
    key: ArchiveKey;
    onStarved: () => void;
  }): Promise<DurableItems> {
    const { files, roster, key } = ground;
    const pending = shelf(packsIn(ground.pending), key);
    for await (const block of ground.earlierRuns) place(pending, block);
    const earlier = shelf(files, key);
    const known = roster ? (await readBlocks(files, roster, key)).blocks : [];
    for (const block of known) place(earlier, block);
    return new DurableItems(pending, earlier, ground.onStarved);
  }

  /** A line was added to the list of the backup. */
  listed(line: BackupLine): void {
    if (!this.#isGathering) return;
    const item = this.#assembler.take(line);
    if (!item) return;
    this.#waiting.push(item);
    this.#held += heldOf(item);
    if (this.#held > HELD_MAX) this.#isGathering = false;
    this.#wake();
  }

  /** A pack is on the medium. */
  packed(block: PackBlock): void {
    place(this.#shelves[0], block);
    this.#wake();
  }

  /** The backup is about to be decided, or was given up: nothing is read from here any more. */
  end(): void {
    this.#isOver = true;
    this.#isGathering = false;
    this.#wake();
  }

  get isOver(): boolean {
    return this.#isOver;
  }

  /** Each item once it is durable, in the order in which it was taken, until {@link end}; for one reader. */
  async *items(signal: AbortSignal): AsyncGenerator<ItemRecord> {
    const stop = () => this.#wake();
    signal.addEventListener('abort', stop);
    try {
      for (;;) {
        signal.throwIfAborted();
        if (this.#isOver) return;
        const next = this.#waiting[this.#given];
        if (next && this.#isDurable(next)) {
          this.#give(next);
          yield next;
        } else if (!next && !this.#isGathering) return;
        else {
          if (next) this.#onStarved();
          await new Promise<void>((resolve) => (this.#wake = resolve));
        }
      }
    } finally {
      signal.removeEventListener('abort', stop);
      for (const { opener } of this.#shelves) opener.close();
    }
  }

  #give(item: ItemRecord): void {
    this.#held -= heldOf(item);
    this.#given += 1;
    if (this.#given < FORGET_EVERY) return;
    this.#waiting = this.#waiting.slice(this.#given);
    this.#given = 0;
  }

  #isDurable({ chunks }: ItemRecord): boolean {
    return idsIn(chunks).every((id) => this.#shelves.some(({ places }) => places.find(id)));
  }

  /** An item's bytes, chunk by chunk; each was compared with its id. @throws Failure `archive-damaged`, also once it is over */
  async *contents({ chunks }: ItemRecord): AsyncGenerator<Uint8Array> {
    for (const id of idsIn(chunks)) yield Buffer.from(await this.#chunk(id));
  }

  async #chunk(id: Buffer): Promise<Uint8Array> {
    for (const { places, opener } of this.#shelves) {
      const found = places.find(id);
      if (found && !this.#isOver) return opener.open(id, found);
    }
    throw new Failure('archive-damaged');
  }
}

function shelf(files: Files, key: ArchiveKey): Shelf {
  const packs: string[] = [];
  return { places: new ChunkPlaces(), packs, opener: new ChunkOpener(files, packs, key) };
}

function place({ places, packs }: Shelf, block: PackBlock): void {
  places.addPack(block);
  packs.push(block.pack);
}

/** Packs that are not in their archive yet lie side by side, under their ids. */
const packsIn = (folder: string): Files => ({
  open: (name) => new FolderFiles(folder).open(basename(name)),
});

const heldOf = ({ chunks }: ItemRecord): number => chunks.length + ITEM_HELD;

function idsIn(chunks: Buffer): Buffer[] {
  return Array.from({ length: chunks.length / CHUNK_ID_BYTES }, (_, number) =>
    chunks.subarray(number * CHUNK_ID_BYTES, (number + 1) * CHUNK_ID_BYTES),
  );
}
