import { setImmediate as yieldToEvents } from 'node:timers/promises';
import { Failure } from '@bright-cellar/core';
import { isFinding } from '../disk/errors.js';
import {
  decodeLines,
  type BackupEnd,
  type BackupHeader,
  type FailedItem,
  type ItemRecord,
} from '../format/backup-lines.js';
import { CHUNK_ID_BYTES, type PackBlock } from '../format/chunk-index.js';
import { ItemAssembler } from '../format/item-assembler.js';
import { packName } from '../format/layout.js';
import type { Roster } from '../format/roster.js';
import { SealedReader } from '../format/sealed-file.js';
import type { ArchiveKey } from '../keys/archive-key.js';
import type { Secret } from '../keys/holders.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import type { Lease, LeaseKind } from '../store/store.js';
import { orFailure } from '../tools/or-failure.js';
import {
  namesOf,
  openState,
  readArchiveId,
  readState,
  type OpenState,
} from './archive-contents.js';
import {
  backupIds,
  inOrder,
  latestOf,
  listOf,
  summaryOf,
  type BackupSummary,
} from './backup-list.js';
import { blocksIn, packsThere, readBlocks } from './blocks.js';
import { PIECE_BYTES, writePiece } from './chunk-opener.js';
import { Comparison } from './comparison.js';
import { ChunkPlaces } from './chunk-places.js';
import { startReading, type Reading } from './reading.js';
import { collectGarbage, COLLECT_EVERY_BYTES } from '../tools/collect.js';
import { threadsFor } from '../tools/threads-for.js';

/** Chunks that {@link OpenArchive.contents} reads ahead. */
const READ_AHEAD = 4;

/** What a backup holds, as its list says. */
export type Listed = { type: 'item'; item: ItemRecord } | { type: 'failed'; failed: FailedItem };

/** What tells an item's contents. */
type Contents = Pick<ItemRecord, 'bytes' | 'chunks'>;

export interface OpenOptions {
  /** Threads that open chunks; 0: this one. */
  threads?: number;
  /** `shared`: it is only read, beside others who read it. */
  lease?: LeaseKind;
}

/** An archive that can be read for as long as this object lives. Close it as soon as the work is done. */
export class OpenArchive {
  readonly files: ArchiveFiles;
  readonly id: string;
  readonly lease: Lease;
  readonly key: ArchiveKey;
  #state: OpenState;
  readonly #threads: number;
  #places: ChunkPlaces | null = null;
  #reading: Reading | null = null;

  private constructor(
    files: ArchiveFiles,
    id: string,
    key: ArchiveKey,
    state: OpenState,
    lease: Lease,
    threads: number,
  ) {
    this.files = files;
    this.id = id;
    this.key = key;
    this.#state = state;
    this.lease = lease;
    this.#threads = threads;
  }

  /**
   * Nothing goes from the archive while it is open; something may be added to it where it is held `shared`.
   * @throws Failure `archive-not-here`, `archive-in-use`, `archive-format-unknown`, `archive-damaged`,
   * `wrong-password`.
   */
  static async open(
    files: ArchiveFiles,
    secret: Secret,
    options: OpenOptions = {},
  ): Promise<OpenArchive> {
    const id = await readArchiveId(files);
    const { threads = 2, lease = 'exclusive' } = options;
    const held = await files.lease(lease);
    try {
      const { key, ...state } = await openState(files, id, secret);
      return new OpenArchive(files, id, key, state, held, threads);
    } catch (error) {
      await held.release();
      throw error;
    }
  }

  /**
   * What the archive holds, as its key says: nothing but this tells what is missing. An archive whose roster is
   * damaged still gives out what can be read of it, and cannot be changed.
   * @throws Failure `archive-damaged`.
   */
  get roster(): Roster {
    const { roster } = this.#state;
    if (roster instanceof Failure) throw roster;
    return roster;
  }

  /** Payload files by name. */
  get names(): readonly string[] {
    return this.#state.names;
  }

  /** SHA-512 of its manifest as it was read; null where there is none. */
  get digest(): string | null {
    return this.#state.digest;
  }

  /** Sees it as it is now: something may have been added since it was opened. While it is steady, and nothing is being read. */
  async renew(): Promise<void> {
    this.#state = await readState(this.files, this.key, this.id);
    await this.#reading?.stop();
    this.#reading = null;
    this.#places = null;
  }

  /** Learns of backups that were added since it was opened; what is being read of it goes on. Their lists can be read, not their contents. */
  async learnOfNew(): Promise<void> {
    const state = await this.files.steady(() => readState(this.files, this.key, this.id));
    if (!(state.roster instanceof Failure)) this.#state = state;
  }

  /** Every backup that can be read, oldest first, and the ids of those that should be there and cannot. */
  async backups(): Promise<{ summaries: BackupSummary[]; damaged: string[] }> {
    const roster = this.#state.roster instanceof Failure ? null : this.#state.roster;
    const ids = roster ? inOrder(roster).map(({ backup }) => backup) : backupIds(this.names);
    const summaries: BackupSummary[] = [];
    const damaged: string[] = [];
    for (const id of ids) {
      const summary = await orFailure(() => this.backup(id));
      if (summary instanceof Failure) damaged.push(id);
      else summaries.push(summary);
    }
    if (!roster) {
      summaries.sort((a, b) => Date.parse(a.header.takenAt) - Date.parse(b.header.takenAt));
    }
    return { summaries, damaged };
  }

  /** The newest backup there should be. @throws Failure `archive-damaged` when it cannot be read, or nobody can tell which it is; `not-found` when there is none. */
  async latest(): Promise<BackupSummary> {
    const latest = await latestOf(this.files, this.roster, this.key);
    if (!latest) throw new Failure('not-found', { what: 'There is no backup in this archive.' });
    return latest;
  }

  /** @throws Failure `not-found`, `archive-damaged`. */
  backup(id: string): Promise<BackupSummary> {
    return summaryOf(this.files, this.names, id, this.key);
  }

  /**
   * What is in a backup, in the order in which it was taken. Ends only after an end whose counts agree
   * with what came before it.
   * @throws Failure `archive-damaged`.
   */
  async *list(backup: string): AsyncGenerator<Listed> {
    const list = listOf(this.names, backup);
    const reader = await SealedReader.open(this.files, list, 'backup', this.key);
    try {
      const assembler = new ItemAssembler();
      const seen = { items: 0, bytes: 0, failed: 0 };
      let header: BackupHeader | null = null;
      let end: BackupEnd | null = null;
      let read = 0;
      for await (const frame of reader.frames()) {
        read += frame.plain.length;
        await (read % COLLECT_EVERY_BYTES < frame.plain.length
          ? collectGarbage()
          : yieldToEvents());
        for (const line of decodeLines(frame.plain)) {
          if (end || (line.type === 'backup') === (header !== null)) {
            throw new Failure('archive-damaged');
          }
          const item = assembler.take(line);
          if (item) {
            seen.items += 1;
            seen.bytes += item.bytes;
            yield { type: 'item', item };
          } else if (line.type === 'failed') {
            seen.failed += 1;
            yield { type: 'failed', failed: line };
          } else if (line.type === 'backup') header = line;
          else if (line.type === 'end') end = line;
        }
      }
      const agrees =
        header?.backup === backup &&
        header.archive === this.id &&
        end?.items === seen.items &&
        end.bytes === seen.bytes &&
        end.failed === seen.failed;
      if (!agrees) throw new Failure('archive-damaged');
    } finally {
      reader.close();
    }
  }

  async *items(backup: string): AsyncGenerator<ItemRecord> {
    for await (const listed of this.list(backup)) if (listed.type === 'item') yield listed.item;
  }

  /**
   * Finds out where every chunk lies, also what only a lost index knew: that takes a reading of its packs. Comes before
   * {@link piecesOf} and {@link reading}.
   */
  async prepare(signal?: AbortSignal): Promise<void> {
    if (this.#places) return;
    const places = new ChunkPlaces();
    const { roster } = this.#state;
    if (roster instanceof Failure) await this.#placesByName(places);
    else {
      const { blocks } = await readBlocks(this.files, roster, this.key, signal);
      // Of a chunk that lies in two packs, the one that is there counts.
      const there = await packsThere(this.files, roster);
      const isHere = ({ pack }: PackBlock) => there.has(packName(pack));
      for (const block of blocks.filter(isHere)) places.addPack(block);
      for (const block of blocks.filter((b) => !isHere(b))) places.addPack(block);
    }
    this.#places = places;
  }

  /** Without a roster: what the indexes that are there say. */
  async #placesByName(places: ChunkPlaces): Promise<void> {
    for (const name of namesOf('index', this.names)) {
      try {
        for await (const block of blocksIn(this.files, name, this.key)) places.addPack(block);
      } catch (error) {
        if (!isFinding(error)) throw error;
      }
    }
  }

  /** Where every chunk lies, as far as it is known. */
  places(): ChunkPlaces {
    if (!this.#places) throw new Error('an archive is prepared before its chunks are looked for');
    return this.#places;
  }

  /** @throws Failure `archive-damaged` when a chunk is in no index, or they do not make up the item. */
  piecesOf(item: Contents): Buffer {
    const count = item.chunks.length / CHUNK_ID_BYTES;
    const pieces = Buffer.allocUnsafeSlow(count * PIECE_BYTES);
    const places = this.places();
    let bytes = 0;
    for (let number = 0; number < count; number++) {
      const id = item.chunks.subarray(number * CHUNK_ID_BYTES, (number + 1) * CHUNK_ID_BYTES);
      const place = places.find(id);
      if (!place) throw new Failure('archive-damaged');
      writePiece(pieces, number, id, place);
      bytes += place.plain;
    }
    if (bytes !== item.bytes) throw new Failure('archive-damaged');
    return pieces;
  }

  /** Those of its pieces that have bytes of a range, and where in the first of them that begins. */
  #piecesIn(item: Contents, { from, to }: { from: number; to: number }) {
    const pieces = this.piecesOf(item);
    const places = this.places();
    let [at, first, last, skip] = [0, 0, 0, 0];
    for (let number = 0; at < to && number * CHUNK_ID_BYTES < item.chunks.length; number++) {
      const id = item.chunks.subarray(number * CHUNK_ID_BYTES, (number + 1) * CHUNK_ID_BYTES);
      const end = at + (places.find(id)?.plain ?? 0);
      if (end <= from) first = number + 1;
      else if (at <= from) skip = from - at;
      last = number + 1;
      at = end;
    }
    return { pieces: pieces.subarray(first * PIECE_BYTES, last * PIECE_BYTES), skip };
  }

  /** The threads that open this archive's chunks. */
  reading(): Reading {
    const { packs } = this.places();
    const bytes = packs.reduce((sum, { size }) => sum + size, 0);
    this.#reading ??= startReading({
      files: this.files,
      packs: packs.map(({ id }) => id),
      key: this.key,
      threads: threadsFor(bytes, this.#threads),
    });
    return this.#reading;
  }

  /**
   * An item's bytes, chunk by chunk; each was compared with its id.
   * @param range only these: from the first to, not including, the second; no chunk is read that has none of them
   * @throws Failure `archive-damaged`.
   */
  async *contents(
    item: Contents,
    range: { from: number; to: number } = { from: 0, to: item.bytes },
  ): AsyncGenerator<Uint8Array> {
    await this.prepare();
    const { pieces, skip } = this.#piecesIn(item, range);
    let skipped = skip;
    let left = range.to - range.from;
    const reading = this.reading();
    const ahead: Promise<Uint8Array>[] = [];
    let given = 0;
    for (let at = 0; at < pieces.length || ahead.length > 0; at += PIECE_BYTES) {
      if (at < pieces.length) {
        const bytes = reading.bytes(new Uint8Array(pieces.subarray(at, at + PIECE_BYTES)));
        // Waited for in turn: a failure is not unhandled until then.
        bytes.catch(() => undefined);
        ahead.push(bytes);
      }
      if (ahead.length < READ_AHEAD && at + PIECE_BYTES < pieces.length) continue;
      const chunk = await ahead.shift();
      if (!chunk) continue;
      const next = chunk.subarray(skipped, skipped + left);
      skipped = 0;
      left -= next.length;
      yield next;
      given += next.length;
      if (given < COLLECT_EVERY_BYTES) continue;
      given = 0;
      await collectGarbage();
    }
  }

  /** Whether contents from elsewhere are exactly an item's: every chunk is identified and compared. */
  async matches(item: Contents, contents: AsyncIterable<Uint8Array>): Promise<boolean> {
    await this.prepare();
    const comparison = new Comparison(this.key, item, this.piecesOf(item));
    for await (const piece of contents) comparison.add(piece);
    return comparison.isSame();
  }

  /** Forgets the key, ends the threads and lets others work on the archive. */
  async close(): Promise<void> {
    await this.#reading?.stop();
    this.key.forget();
    await this.lease.release();
  }
}
