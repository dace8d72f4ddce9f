import { randomBytes } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { basename, join } from 'node:path';
import {
  archiveIdSchema,
  backupIdSchema,
  cuttingFor,
  SEGMENT_BYTES,
  type CommittedBackup,
  type DataClass,
} from '@bright-cellar/core';
import { commitChange, noChange } from '../commit/commit.js';
import { discardUnfinished, FOUNDATION } from '../commit/pending.js';
import { diskFailure, syncFile, syncFolder } from '../disk/durable.js';
import {
  FAILED_PATH_MAX,
  type BackupEnd,
  type BackupHeader,
  type FailedItem,
  type NewItem,
  type PartLine,
} from '../format/backup-lines.js';
import { encodeBlock, entriesOf, type PackBlock } from '../format/chunk-index.js';
import { backupName, indexName, packName, PENDING } from '../format/layout.js';
import { ListWriter } from '../format/list-writer.js';
import type { Roster } from '../format/roster.js';
import { SealedWriter } from '../format/sealed-file.js';
import { inOrder } from '../open/backup-list.js';
import type { Part, PartResult } from './chunk-sealer.js';
import { DurableItems } from './durable-items.js';
import { isSame, type FoundItem } from './earlier-items.js';
import { closeGround, prepareGround, type Workspace, type GroundOptions } from './workspace.js';
import { ListRecorder } from './list-recorder.js';
import { Review } from './review.js';
import { PathGuard } from './path-guard.js';
import { nextNumber } from './pending-packs.js';
import { SealingCrew, type Sealing } from './sealing.js';
import { rm } from '../disk/medium.js';
import { FolderFiles } from '../store/folder-files.js';

const SEALING_THREADS = 2;
/** Parts of small items go to a thread together. */
const BATCH_BYTES = SEGMENT_BYTES;
const BATCH_PARTS = 128;
/** From a slow device not many come together: what it gave is on its way to the medium after so long. */
const BATCH_MS = 1000;
/** Batches on their way for each thread: one in work, one waiting. */
const BATCHES_PER_THREAD = 2;
const UNSYNCED_PACKS = 4;
/** Records are made durable after this many bytes of packs: that much is read through once after a power cut. */
const SYNC_RECORDS_BYTES = 256 * 2 ** 20;
/** Packs that somebody waits for are finished after so long. */
const CLOSE_EARLY_AFTER_MS = 500;

export interface BackupOptions extends GroundOptions {
  label: string;
  ticket: string;
  device: BackupHeader['device'];
  sheet?: BackupHeader['sheet'];
  takenAt: Date;
  /** What comes out of a package was taken when that says, however long ago. */
  isPackage?: boolean;
  /** 0 seals in this thread. */
  threads?: number;
  /** Somebody sends its items further while it is taken: see {@link BackupRun.durable}. */
  isFollowed?: boolean;
  events?: Partial<BackupEvents>;
}

/** What happens while a backup is taken, in the order of the items. */
export interface BackupEvents {
  /** Bytes of contents were read and sealed. */
  bytes(count: number): void;
  /** An item was in the archive already and was not read. */
  reused(item: NewItem): void;
  /** @param isNew whether the archive's newest backup did not have the item like this. */
  taken(item: NewItem, isNew: boolean): void;
  failed(item: Omit<FailedItem, 'type'>): void;
  /** What was told before of an item does not count any more: it was looked at again, or is not there any more. */
  withdrawn(item: {
    failed: boolean;
    class: DataClass;
    path: string;
    bytes: number;
    reason: string;
  }): void;
}

/**
 * When a backup was taken: never before the ones that the archive holds already, even where the computer's clock was set
 * back since. The newest must be the one that came last.
 */
function momentOf({ takenAt, isPackage = false }: BackupOptions, roster: Roster | null): Date {
  const newest = roster && inOrder(roster).at(-1);
  if (!newest || isPackage) return takenAt;
  return new Date(Math.max(takenAt.getTime(), Date.parse(newest.takenAt) + 1));
}

/**
 * One backup being taken. Items are added one after the other; what they bring is sealed by other threads
 * meanwhile. Ends with {@link commit}, {@link suspend} or {@link discard}.
 */
export class BackupRun {
  readonly header: BackupHeader;
  readonly #workspace: Workspace;
  readonly #list: ListWriter;
  readonly #recorder: ListRecorder;
  readonly #sealing: Sealing;
  readonly #events: Partial<BackupEvents>;
  readonly #inFlightMax: number;
  readonly #inFlight = new Set<Promise<unknown>>();
  readonly #syncing = new Set<Promise<void>>();
  #batch: { part: Part; answer: (result: Promise<PartResult>) => void }[] = [];
  #batchBytes = 0;
  /** When the first of the batch came. */
  #batchSince = 0;
  #tail: Promise<void> = Promise.resolve();
  #failure: unknown = null;
  #unsyncedBytes = 0;
  #changed: { item: NewItem; path: Buffer }[] = [];
  #review: Review | null = null;
  readonly #guard = new PathGuard();
  /** What of it is on the medium already; null where nobody asked for it. */
  readonly durable: DurableItems | null;

  private constructor(
    workspace: Workspace,
    crew: SealingCrew,
    options: BackupOptions,
    durable: DurableItems | null,
  ) {
    const { label, ticket, device, sheet, threads = SEALING_THREADS, events = {} } = options;
    this.#workspace = workspace;
    this.#events = events;
    this.durable = durable;
    this.header = {
      type: 'backup',
      format: 1,
      archive: workspace.archive,
      backup: workspace.backup,
      takenAt: momentOf(options, workspace.roster).toISOString(),
      label,
      ticket,
      device,
      ...(sheet ? { sheet } : {}),
    };
    const number = nextNumber(readdirSync(workspace.pending), 'list-');
    this.#list = new ListWriter(join(workspace.pending, `list-${number}.backup`), workspace.key);
    this.#list.add(this.header);
    this.#recorder = new ListRecorder({
      add: (line) => {
        this.#list.add(line);
        durable?.listed(line);
      },
    });
    this.#inFlightMax = Math.max(1, threads) * BATCHES_PER_THREAD;
    this.#sealing = crew.begin({
      folder: workspace.pending,
      key: workspace.key,
      known: workspace.known,
      onPack: (block) => this.#syncPack(block),
    });
  }

  /**
   * Begins a backup, or goes on with one that was cut off. A folder that is not there becomes a new
   * archive; nothing has its name before the first backup in it is whole.
   * @throws Failure `archive-in-use`, `wrong-password`, `archive-of-another`, `archive-damaged`,
   * `rack-full`, `rack-not-here`.
   */
  static async begin(options: BackupOptions): Promise<BackupRun> {
    const crew = new SealingCrew(options.threads ?? SEALING_THREADS);
    let workspace: Workspace | null = null;
    try {
      workspace = await prepareGround(options);
      const starved = { tell: () => {} };
      const durable = options.isFollowed ? await durableOf(workspace, () => starved.tell()) : null;
      const run = new BackupRun(workspace, crew, options, durable);
      starved.tell = () => run.#closePacksEarly();
      return run;
    } catch (error) {
      await crew.dismiss();
      if (workspace) {
        closeGround(workspace);
        await workspace.lease.release();
      }
      throw diskFailure(error);
    }
  }

  /** Whether this goes on with a run that was cut off. */
  get resumed(): boolean {
    return this.#workspace.resumed;
  }

  /** Whether the item is in the archive as it is now, and need not be read. */
  async has(item: NewItem): Promise<boolean> {
    return (await this.#find(item)) !== null;
  }

  /** Bytes of a long item that an earlier run has taken. */
  begunBytesOf(item: NewItem): number {
    return this.#beginningOf(item).at(-1)?.to ?? 0;
  }

  /**
   * Begins another look at a source that changed while it was read. From now on all of it is told once more, with
   * {@link stays} or by adding it: what was added before and is not told again is not in the backup.
   */
  async beginReview(): Promise<void> {
    await this.flush();
    this.#list.flush();
    this.#guard.clear();
    this.#review ??= new Review();
    const { pending, key } = this.#workspace;
    await this.#review.begin(new FolderFiles(pending), basename(this.#list.path), key);
  }

  /** Whether an item was taken before just as it is now. It stays in the backup then, and need not be added. */
  async stays(item: NewItem): Promise<boolean> {
    if (!(await this.#review?.stays(item))) return false;
    this.#guard.takes(item.path, item.kind);
    return true;
  }

  /** Files that changed while they were read, each once. Add them again with their new state. */
  takeChanged(): { item: NewItem; path: Buffer }[] {
    return this.#changed.splice(0);
  }

  /**
   * Adds a file by its path; its mark must be `markOf` the file. One that changes while it is read is set
   * aside for {@link takeChanged}, and is a failed item the second time.
   * @throws Failure `rack-full`, `rack-not-here`.
   */
  async addFile(item: NewItem, path: Buffer, again = false): Promise<void> {
    // One that is read again was let in before.
    if (!again && !this.#mayTake(item)) return this.#yieldNowAndThen();
    this.#review?.replace(item.path);
    if (await this.#reuse(item)) return this.#yieldNowAndThen();
    const beginning = this.#beginningOf(item);
    this.#then(() => this.#recorder.begin(item, beginning));
    const source = { path, mark: item.mark };
    for (let offset = beginning.at(-1)?.to ?? 0; offset < item.bytes; offset += SEGMENT_BYTES) {
      await this.#addPart(item, offset, Math.min(SEGMENT_BYTES, item.bytes - offset), source);
    }
    this.#then(() => this.#end(item, again ? null : path));
    await this.#yieldNowAndThen();
  }

  /**
   * Adds an item whose bytes come as a stream.
   * @param contents gives the bytes from an offset on; an error of it passes through and leaves the backup
   * as if the item had not been begun.
   * @throws Failure `rack-full`, `rack-not-here`; whatever `contents` throws.
   */
  async addContents(
    item: NewItem,
    contents: (from: number) => AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  ): Promise<void> {
    if (!this.#mayTake(item)) return this.#yieldNowAndThen();
    this.#review?.replace(item.path);
    if (await this.#reuse(item)) return this.#yieldNowAndThen();
    const beginning = this.#beginningOf(item);
    this.#then(() => this.#recorder.begin(item, beginning));
    let offset = beginning.at(-1)?.to ?? 0;
    for await (const segment of segmentsOf(contents(offset), item.bytes - offset)) {
      // The source gives more than it said: whoever reads it ends that; here nothing more is taken.
      if (offset + segment.length > item.bytes) throw new RangeError('more than was announced');
      await this.#addPart(item, offset, segment.length, segment);
      offset += segment.length;
    }
    this.#then(() => this.#end(item, null));
    await this.#yieldNowAndThen();
  }

  /** Refuses what could be written nowhere again, with a word. */
  #mayTake(item: NewItem): boolean {
    if (this.#guard.takes(item.path, item.kind)) return true;
    const path = item.path.slice(0, FAILED_PATH_MAX);
    this.addFailure({ class: item.class, path, reason: 'unfit-name' });
    return false;
  }

  addFailure(item: Omit<FailedItem, 'type'>): void {
    this.#review?.replace(item.path);
    this.#then(() => {
      this.#recorder.failed(item);
      this.#events.failed?.(item);
    });
  }

  /** Waits until everything that was added has been dealt with. @throws Failure `rack-full`, `rack-not-here`. */
  async flush(): Promise<void> {
    await this.#submit();
    await this.#tail;
    this.#throwFailure();
  }

  /**
   * Makes everything durable and part of the archive.
   * @param beforeDeciding runs when all is on the medium and nothing has been decided yet.
   */
  async commit(
    beforeDeciding: (committed: CommittedBackup) => Promise<void> = async () => undefined,
  ): Promise<CommittedBackup> {
    const workspace = this.#workspace;
    const { pending, backup } = workspace;
    try {
      await this.flush();
      await this.#sealing.closePacks();
      await Promise.all(this.#syncing);
      this.#throwFailure();
      // From here on packs go to where they belong.
      this.durable?.end();
      await this.#sealing.stop();
      const work = [backup, basename(FOUNDATION)];
      const change = { ...noChange(work), add: [...workspace.foundation] };
      const below = `${PENDING}/${backup}`;
      let newBytes = 0;
      let storedBytes = 0;
      // An earlier run may have been cut off right here.
      await rm(join(pending, 'chunks.index'), { force: true });
      const index = new SealedWriter(join(pending, 'chunks.index'), 'index', workspace.key);
      // What was mended is in no index any more but this one.
      for (const block of workspace.healing?.kept ?? []) index.append(encodeBlock(block));
      change.remove.push(...(workspace.healing?.remove ?? []));
      for await (const block of workspace.packs.finish()) {
        index.append(encodeBlock(block));
        for (const { plain } of entriesOf(block)) newBytes += plain;
        storedBytes += block.size;
        const facts = { size: block.size, sha512: block.sha512 };
        change.add.push({ from: `${below}/${block.pack}.pack`, to: packName(block.pack), facts });
      }
      const indexFacts = index.finish();
      if (storedBytes > 0 || workspace.healing) {
        await syncFile(index.path);
        const to = indexName(index.id.toString('hex'));
        change.add.push({ from: `${below}/chunks.index`, to, facts: indexFacts });
      }
      const { list, counts } = await this.#finalList();
      const end: BackupEnd = { type: 'end', ...counts, newBytes, storedBytes };
      list.add(end);
      const listFacts = list.finish();
      await syncFile(list.path);
      const from = `${below}/${list.path.slice(pending.length + 1)}`;
      const listName = backupName(backup, randomBytes(4).toString('hex'));
      change.add.push({ from, to: listName, facts: listFacts });
      const { takenAt } = this.header;
      const { items, bytes, failed } = end;
      change.backups.push({ backup, takenAt, items, bytes, failed, list: listName });
      const listDigest = listFacts.sha512;
      const committed = {
        ...{ ...end, takenAt, listDigest },
        archive: archiveIdSchema.parse(workspace.archive),
        backup: backupIdSchema.parse(backup),
      };
      const { archive: id } = workspace;
      const state = await commitChange(
        { ...workspace, ...workspace.payload, id },
        change,
        (decided) => beforeDeciding({ ...committed, ...decided }),
      );
      this.#review?.close();
      closeGround(workspace);
      await workspace.lease.release();
      return { ...committed, ...state };
    } catch (error) {
      throw diskFailure(error);
    }
  }

  /** The list as it is committed: after a review without what does not count any more. */
  async #finalList(): Promise<{ list: ListWriter; counts: ListRecorder['counts'] }> {
    const { counts } = this.#recorder;
    if (!this.#review) return { list: this.#list, counts };
    this.#list.flush();
    const { pending, key } = this.#workspace;
    const number = nextNumber(readdirSync(pending), 'list-');
    const list = new ListWriter(join(pending, `list-${number}.backup`), key);
    const kept = { items: 0, bytes: 0, failed: 0 };
    const lines = this.#review.sift(new FolderFiles(pending), basename(this.#list.path), key);
    for await (const { line, isKept } of lines) {
      const failed = line.type === 'failed';
      if (isKept) {
        list.add(line);
        if (failed) kept.failed += 1;
        if (line.type === 'item') {
          kept.items += 1;
          kept.bytes += line.bytes;
        }
      } else if (failed || line.type === 'item') {
        const { class: dataClass, path } = line;
        this.#events.withdrawn?.({
          ...{ failed, class: dataClass, path },
          ...(failed ? { bytes: 0, reason: line.reason } : { bytes: line.bytes, reason: '' }),
        });
      }
    }
    this.#list.close();
    return { list, counts: { ...kept, newItems: Math.min(counts.newItems, kept.items) } };
  }

  /** Ends without a backup and keeps what was sealed, so that the same backup can go on. */
  async suspend(): Promise<void> {
    try {
      if (!this.#failure) {
        await this.flush();
        await this.#sealing.closePacks();
        await Promise.allSettled([...this.#syncing]);
        this.#recorder.writeBegun();
        this.#list.flush();
        this.#workspace.packs.flush();
      }
    } catch {
      // The rack is full or gone: what is on it already is kept as it is.
    } finally {
      await this.#letGo();
    }
  }

  /** Ends without a backup and leaves nothing of it behind. */
  async discard(): Promise<void> {
    const { work, backup } = this.#workspace;
    await this.#letGo();
    await discardUnfinished(work, backup);
  }

  async #letGo(): Promise<void> {
    this.durable?.end();
    clearTimeout(this.#closingEarly ?? undefined);
    // What nobody will seal any more is waited for by nobody.
    for (const { answer } of this.#batch.splice(0)) answer(Promise.reject(new Error('ended')));
    await this.#sealing.stop();
    this.#list.close();
    this.#review?.close();
    this.#workspace.packs.close();
    closeGround(this.#workspace);
    await this.#workspace.lease.release();
  }

  /** The item as it is in the archive already, if it is the same. */
  async #reuse(item: NewItem): Promise<boolean> {
    const found = await this.#find(item);
    if (!found) return false;
    this.#then(() => {
      this.#recorder.reuse(item, found.earlier);
      this.#taken(item, found.isNew);
      this.#events.reused?.(item);
    });
    return true;
  }

  async #find(item: NewItem): Promise<{ earlier: FoundItem; isNew: boolean } | null> {
    const { latest, begun, known } = this.#workspace;
    for (const items of latest ? [latest, ...begun] : begun) {
      const earlier = await items.find(item.path);
      if (!earlier || !isSame(earlier.item, item) || !known.hasAll(earlier.item.chunks)) continue;
      return { earlier, isNew: items !== latest };
    }
    return null;
  }

  #beginningOf(item: NewItem): readonly PartLine[] {
    for (const items of this.#workspace.begun) {
      const parts = items.beginningOf(item.path);
      const taken = parts.at(-1);
      const fits =
        taken !== undefined &&
        item.mark !== '' &&
        taken.mark === item.mark &&
        taken.to <= item.bytes &&
        taken.to % SEGMENT_BYTES === 0 &&
        parts.every(({ chunks }) => this.#workspace.known.hasAll(Buffer.from(chunks, 'hex')));
      if (!fits) continue;
      return parts;
    }
    return [];
  }

  #end(item: NewItem, retry: Buffer | null): void {
    const outcome = this.#recorder.end();
    if (outcome.taken) this.#taken(item, true);
    else if (outcome.failure === 'changed' && retry) this.#changed.push({ item, path: retry });
    else {
      const failed = { class: item.class, path: item.path, reason: outcome.failure };
      this.#recorder.failed(failed);
      this.#events.failed?.(failed);
    }
  }

  #taken(item: NewItem, isNew: boolean): void {
    if (isNew) this.#recorder.counts.newItems += 1;
    this.#events.taken?.(item, isNew);
  }

  async #addPart(item: NewItem, offset: number, length: number, source: Part['source']) {
    this.#throwFailure();
    const part: Part = { source, offset, length, cutting: cuttingFor(item), itemBytes: item.bytes };
    const now = performance.now();
    if (this.#batch.length === 0) this.#batchSince = now;
    const result = new Promise<PartResult>((resolve) => {
      this.#batch.push({ part, answer: resolve });
    });
    // Waited for in turn: a failure is not unhandled until then.
    result.catch(() => undefined);
    this.#batchBytes += length;
    this.#then(async () => {
      const sealed = await result;
      if ('failure' in sealed) this.#recorder.partFailed(sealed.failure);
      else this.#recorder.part(length, sealed.chunks);
      this.#events.bytes?.(length);
    });
    const isFull = this.#batchBytes >= BATCH_BYTES || this.#batch.length >= BATCH_PARTS;
    if (isFull || now - this.#batchSince >= BATCH_MS) await this.#submit();
  }

  async #submit(): Promise<void> {
    const batch = this.#batch;
    if (batch.length === 0) return;
    this.#batch = [];
    this.#batchBytes = 0;
    while (this.#inFlight.size >= this.#inFlightMax) await Promise.race(this.#inFlight);
    while (this.#syncing.size >= UNSYNCED_PACKS) await Promise.race(this.#syncing);
    const sealed = this.#sealing.seal(batch.map(({ part }) => part));
    batch.forEach(({ answer }, number) => {
      answer(sealed.then((results) => results[number] ?? { failure: 'read-error' }));
    });
    const done: Promise<unknown> = sealed
      .catch((error: unknown) => (this.#failure ??= error))
      .finally(() => this.#inFlight.delete(done));
    this.#inFlight.add(done);
  }

  #syncPack(block: PackBlock): void {
    const { pending, packs } = this.#workspace;
    const synced = (async () => {
      try {
        await syncFile(join(pending, `${block.pack}.pack`));
        packs.record(block);
        packs.flush();
        this.#list.flush();
        this.durable?.packed(block);
        this.#unsyncedBytes += block.size;
        if (this.#unsyncedBytes < SYNC_RECORDS_BYTES) return;
        this.#unsyncedBytes = 0;
        await Promise.all([syncFile(packs.path), syncFile(this.#list.path), syncFolder(pending)]);
      } catch (error) {
        this.#failure ??= error;
      }
    })().finally(() => this.#syncing.delete(synced));
    this.#syncing.add(synced);
  }

  #closingEarly: NodeJS.Timeout | null = null;
  /** Whoever waits for what is durable gets it soon: a pack that is not full costs little. */
  #closePacksEarly(): void {
    this.#closingEarly ??= setTimeout(() => {
      this.#closingEarly = null;
      if (this.durable?.isOver) return;
      // What goes wrong there goes wrong with what is added next, too.
      this.#sealing.closePacks().catch((error: unknown) => (this.#failure ??= error));
    }, CLOSE_EARLY_AFTER_MS);
  }

  /** Steps run one after the other, in the order in which items are added. */
  #then(step: () => void | Promise<void>): void {
    this.#tail = this.#tail.then(step).catch((error: unknown) => {
      this.#failure ??= error;
    });
  }

  #sinceYield = 0;
  /** Lets other work of this thread have its turn, now and then. */
  async #yieldNowAndThen(): Promise<void> {
    this.#throwFailure();
    if (++this.#sinceYield % 64 !== 0) return;
    await new Promise((done) => setImmediate(done));
  }

  #throwFailure(): void {
    if (this.#failure) throw diskFailure(this.#failure);
  }
}

const durableOf = (
  { files, roster, pending, packs, key }: Workspace,
  onStarved: () => void,
): Promise<DurableItems> =>
  DurableItems.begin({ files, roster, pending, earlierRuns: packs.recorded(), key, onStarved });

/** A stream in segments of exactly SEGMENT_BYTES, but for the last. Holds one. */
async function* segmentsOf(
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  expected: number,
): AsyncGenerator<Uint8Array> {
  let left = expected;
  const space = () => new Uint8Array(Math.max(1, Math.min(left, SEGMENT_BYTES)));
  let segment = space();
  let filled = 0;
  for await (const piece of pieces) {
    for (let at = 0; at < piece.length;) {
      if (filled === segment.length && filled < SEGMENT_BYTES) {
        // More comes than the source had said.
        const larger = new Uint8Array(SEGMENT_BYTES);
        larger.set(segment);
        segment = larger;
      }
      const count = Math.min(piece.length - at, segment.length - filled);
      segment.set(piece.subarray(at, at + count), filled);
      filled += count;
      at += count;
      if (filled === SEGMENT_BYTES) {
        yield segment;
        left -= filled;
        segment = space();
        filled = 0;
      }
    }
  }
  if (filled > 0) yield segment.slice(0, filled);
}
