import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { decodeBlocks, encodeBlock, EntryList, type PackBlock } from '../format/chunk-index.js';
import { salvage, SealedReader, SealedWriter } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import { syncFile } from '../disk/durable.js';
import { ChunkIdentifier } from '../keys/chunk-identifier.js';
import { rm } from '../disk/medium.js';
import { FolderFiles } from '../store/folder-files.js';

/**
 * The packs of a run in progress: each that is finished is recorded in an index beside it. After a cut
 * the records are believed, and packs without one are read through once.
 */
export class PendingPacks {
  readonly folder: string;
  readonly #key: ArchiveKey;
  readonly #recorded: SealedWriter;
  #earlier: string[] = [];

  private constructor(folder: string, key: ArchiveKey, earlier: string[]) {
    this.folder = folder;
    this.#key = key;
    this.#earlier = earlier;
    this.#recorded = new SealedWriter(
      join(folder, `packs-${nextNumber(earlier, 'packs-')}.index`),
      'index',
      key,
    );
  }

  /**
   * Takes up what an earlier run left in the folder.
   * @param onPack hears of every pack that is there.
   */
  static async takeUp(
    folder: string,
    key: ArchiveKey,
    onPack: (block: PackBlock) => void,
  ): Promise<PendingPacks> {
    const names = await readdir(folder);
    const indexes = names.filter((name) => /^packs-\d+\.index$/.test(name)).sort(byNumber);
    const pending = new PendingPacks(folder, key, indexes);
    const known = new Set<string>();
    for await (const block of pending.#earlierBlocks()) {
      const size = await stat(join(folder, `${block.pack}.pack`)).then(
        (info) => info.size,
        () => -1,
      );
      if (size !== block.size) continue;
      known.add(block.pack);
      onPack(block);
    }
    for (const name of names.filter((n) => n.endsWith('.pack'))) {
      if (known.has(name.slice(0, -'.pack'.length))) continue;
      const block = await salvagePack(join(folder, name), key);
      if (!block) await rm(join(folder, name));
      else {
        await syncFile(join(folder, name));
        pending.record(block);
        onPack(block);
      }
    }
    return pending;
  }

  /** Records a pack that is finished and synced. */
  record(block: PackBlock): void {
    this.#recorded.append(encodeBlock(block));
  }

  flush(): void {
    this.#recorded.flush();
  }

  get path(): string {
    return this.#recorded.path;
  }

  /** Packs of earlier runs that are there; one that is recorded twice is told twice. */
  recorded(): AsyncGenerator<PackBlock> {
    return this.#earlierBlocks();
  }

  /** Every pack of the run that is there, each once. Ends the recording. */
  async *finish(): AsyncGenerator<PackBlock> {
    this.#recorded.finish();
    this.#earlier = [...this.#earlier, this.#recorded.path.slice(this.folder.length + 1)];
    const seen = new Set<string>();
    for await (const block of this.#earlierBlocks()) {
      if (seen.has(block.pack)) continue;
      seen.add(block.pack);
      yield block;
    }
  }

  close(): void {
    this.#recorded.close();
  }

  async *#earlierBlocks(): AsyncGenerator<PackBlock> {
    // The newest record of a pack counts: an earlier one may speak of a file that was cut off since.
    const files = new FolderFiles(this.folder);
    for (const name of [...this.#earlier].reverse()) {
      let reader: SealedReader;
      try {
        reader = await SealedReader.open(files, name, 'index', this.#key);
      } catch {
        // Cut off before its header was on the medium: nothing was recorded in it.
        continue;
      }
      try {
        for await (const frame of reader.framesUntilTorn()) yield* decodeBlocks(frame.plain);
      } finally {
        reader.close();
      }
    }
  }
}

/** The next free number after names like `list-3.backup`. */
export function nextNumber(names: readonly string[], prefix: string): number {
  const numbers = names
    .filter((name) => name.startsWith(prefix))
    .map((name) => Number.parseInt(name.slice(prefix.length), 10));
  return Math.max(0, ...numbers) + 1;
}

export const byNumber = (a: string, b: string) => a.localeCompare(b, 'en', { numeric: true });

async function salvagePack(path: string, key: ArchiveKey): Promise<PackBlock | null> {
  const identifier = new ChunkIdentifier(key);
  const entries = new EntryList();
  const facts = await salvage(path, 'pack', key, ({ offset, stored, plain }) => {
    entries.add({ id: identifier.idOf(plain), offset, stored, plain: plain.length });
  });
  if (!facts) return null;
  const { id, size, sha512 } = facts;
  return { pack: id.toString('hex'), size, sha512, entries: entries.bytes() };
}
