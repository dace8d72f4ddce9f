import { createHash } from 'node:crypto';
import { OpenArchive, type ItemRecord } from '@bright-cellar/archive';
import {
  CrossingTally,
  dataClassIds,
  groupOfPath,
  LeavingOut,
  problemOf,
  type DataClass,
  type Sparable,
  takesNothing,
} from '@bright-cellar/core';
import {
  attachedTo,
  crossRecords,
  CrossingTarget,
  movedTo,
  onlySelected,
  tallyOf,
  type Outgoing,
  type ReadItem,
  type Selection,
} from '@bright-cellar/core/crossing';
import { kindOf, type Records } from '@bright-cellar/core/formats';
import type { Entry } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';
import { inOne } from '../../kernel/in-one.js';
import { lookAtDevice, RECORDS_AT_MOST, recordsOf } from './look-at-device.js';
import type { Sender } from './send.js';
import { whenOpen } from './when-open.js';

export type CrossingJob = Job<'foresee'> | Job<'cross'>;

/** Something that goes over: a file of records, or a file as it is. */
export type Piece<Item extends SentItem = SentItem> =
  | { what: 'records'; file: Outgoing<Item> }
  | { what: 'file'; item: Item; path: string; isShown: boolean; isBeside: boolean };

/** A file as it is sent. */
export type SentItem = Pick<ItemRecord, 'class' | 'kind' | 'path' | 'bytes' | 'modified' | 'mode'>;

/** Of a class of which each record is by itself, so many items at a time. */
const ITEMS_AT_ONCE = 200;
const eachByItself: ReadonlySet<DataClass> = new Set<DataClass>(['contacts', 'notes']);
/** Of files of the same size on the device so many are compared with one that comes. */
const ALIKE_AT_MOST = 4;

/** What goes from a backup onto a device, piece by piece; what stays, and what is there already, is counted. */
export class Crossing implements Sender<ItemRecord> {
  readonly tally = new CrossingTally();
  readonly #job: CrossingJob;
  readonly #onRead: (bytes: number) => void;
  readonly #archive: OpenArchive;
  readonly #target: CrossingTarget;
  readonly #selection: Selection;
  /** What came along with what goes, where not all of a conversation does. */
  readonly #attached = new Set<string>();
  readonly #onDevice = new Map<string, Entry>();
  readonly #alike = new Map<string, Entry[]>();
  readonly #leavingOut: LeavingOut;

  private constructor(
    job: CrossingJob,
    archive: OpenArchive,
    target: CrossingTarget,
    selection: Selection,
    onRead: (bytes: number) => void,
  ) {
    this.#job = job;
    this.#selection = selection;
    this.#leavingOut = new LeavingOut(job.input.without);
    this.#onRead = onRead;
    this.#archive = archive;
    this.#target = target;
  }

  /**
   * Reads what is on the device, as far as something chosen could meet it there.
   * @param onRead told of each item of the backup that was looked at, with its bytes
   */
  static async open(
    job: CrossingJob,
    archive: OpenArchive,
    selection: Selection,
    onRead: (bytes: number) => void = () => undefined,
  ): Promise<Crossing> {
    const { family, sourceFamily } = job.input;
    const { takes } = (await job.link.facts(job.deviceId)).capabilities;
    const target = new CrossingTarget(takes ?? takesNothing, family === sourceFamily);
    const crossing = new Crossing(job, archive, target, selection, onRead);
    const classes = new Set<DataClass>();
    for await (const item of crossing.#chosen()) classes.add(item.class);
    await crossing.#lookAtDevice(dataClassIds.filter((id) => classes.has(id)));
    await crossing.#findOwnApplications();
    return crossing;
  }

  /** An application on the device is its own, unless all that is there of it is the backup's: then a crossing was cut, and goes on. */
  async #findOwnApplications(): Promise<void> {
    const there = [...this.#onDevice.values()].filter((e) => e.class === 'applications');
    if (there.length === 0) return;
    const items = new Map<string, ItemRecord>();
    for await (const item of this.#chosen()) {
      if (item.class === 'applications') items.set(item.path, item);
    }
    const own = new Set<string>();
    for (const entry of there) {
      const application = groupOfPath(entry.path);
      if (own.has(application)) continue;
      const item = items.get(entry.path);
      if (item && (await this.#isSame(item, entry))) continue;
      own.add(application);
      this.#target.ownsApplication(application);
    }
  }

  async #lookAtDevice(classes: readonly DataClass[]): Promise<void> {
    for (const entry of await lookAtDevice(this.#job, classes, this.#target)) {
      this.#onDevice.set(entry.path, entry);
      const key = `${entry.class} ${entry.bytes}`;
      const alike = this.#alike.get(key) ?? [];
      if (alike.length < ALIKE_AT_MOST) this.#alike.set(key, [...alike, entry]);
    }
  }

  /** Everything that goes over: records first, class by class, then files. */
  async *pieces(): AsyncGenerator<Piece<ItemRecord>> {
    const bundles = new Map<string, { item: ItemRecord; way: RecordsWay }[]>();
    let count = 0;
    for await (const item of this.#chosen()) {
      // Whether it goes is known once what goes of its conversation is.
      if (this.#mayBeAttached(item)) continue;
      const way = this.#target.wayOf(item);
      if (way.way === 'stays' && item.kind !== 'folder') this.tally.stays(item.class, way.why);
      if (way.way !== 'records' && way.way !== 'aside') continue;
      const key = bundleOf(item, count++);
      const bundle = bundles.get(key);
      if (bundle) bundle.push({ item, way });
      else bundles.set(key, [{ item, way }]);
    }
    for (const bundle of bundles.values()) {
      const read: ReadItem<ItemRecord>[] = [];
      for (const { item, way } of bundle) {
        const records = await this.#recordsOf(item);
        if (records === null) continue;
        read.push({ item, records, taking: way.way === 'records' ? way.taking : null });
      }
      const selected = onlySelected(read, this.#selection);
      if (this.#selection.isNarrow)
        for (const path of attachedTo(selected)) this.#attached.add(path);
      for (const file of crossRecords(selected, this.#target, this.tally))
        yield { what: 'records', file };
    }
    for await (const item of this.#chosen()) {
      const isAttachment = this.#mayBeAttached(item);
      if (isAttachment && !this.#attached.has(item.path)) continue;
      const way = this.#target.wayOf(item);
      if (isAttachment && way.way === 'stays') this.tally.stays(item.class, way.why);
      if (way.way !== 'file') continue;
      const piece = await this.#file(item, way.isShown);
      if (piece) yield piece;
    }
  }

  async *#chosen(): AsyncGenerator<ItemRecord> {
    for await (const item of this.#archive.items(this.#job.backupId)) {
      this.#job.signal.throwIfAborted();
      if (this.#selection.hasItem(item)) yield item;
    }
  }

  /** A file beside what was said, of which not all goes. */
  #mayBeAttached({ class: dataClass, format }: ItemRecord): boolean {
    const isBesideWords = dataClass === 'messages' && kindOf(format ?? null) === null;
    return this.#selection.isNarrow && isBesideWords;
  }

  /** Null where nobody can read them; that is counted. */
  async #recordsOf(item: ItemRecord): Promise<Records | null> {
    this.#onRead(item.bytes);
    if (item.bytes > RECORDS_AT_MOST) {
      this.tally.stays(item.class, 'unreadable');
      return null;
    }
    try {
      const contents = await inOne(this.#archive.contents(item));
      const records = recordsOf(item.format ?? null, contents, item.path);
      if (records === null) this.tally.stays(item.class, 'unreadable');
      return records;
    } catch (error) {
      if (problemOf(error).code !== 'archive-damaged') throw error;
      this.tally.stays(item.class, 'damaged');
      return null;
    }
  }

  /** Null for what is on the device already, or cannot lie beside what is. */
  async #file(item: ItemRecord, isShown: boolean): Promise<Piece<ItemRecord> | null> {
    const { class: dataClass } = item;
    this.#onRead(item.bytes);
    const wanted =
      dataClass === 'messages'
        ? movedTo(item.path, this.#target.placeOf(groupOfPath(item.path)))
        : item.path;
    const there = this.#onDevice.get(wanted);
    const alike = this.#alike.get(`${dataClass} ${item.bytes}`) ?? [];
    const others = dataClass === 'applications' ? [] : alike;
    for (const entry of new Set([...(there ? [there] : []), ...others])) {
      if (!(await this.#isSame(item, entry))) continue;
      this.tally.add(dataClass, 'present');
      return null;
    }
    const stays = this.#leavingOut.whyStays(item, contentsKey(item));
    if (stays !== null) {
      this.tally.stays(dataClass, stays);
      return null;
    }
    const isBeside = this.#target.has(wanted);
    if (isBeside && !this.#target.mayLieBeside(dataClass)) {
      this.tally.stays(dataClass, 'own-there');
      return null;
    }
    return { what: 'file', item, path: this.#target.freePath(wanted), isShown, isBeside };
  }

  async #isSame(item: ItemRecord, entry: Entry): Promise<boolean> {
    if (entry.bytes !== item.bytes || entry.kind !== item.kind) return false;
    if (item.kind === 'folder') return true;
    const { link, deviceId, signal } = this.#job;
    return whenOpen(this.#job, entry, () =>
      this.#archive.matches(item, link.read(deviceId, entry, signal)),
    );
  }

  async *contents(piece: Piece<ItemRecord>): AsyncGenerator<Uint8Array> {
    const from = piece.what === 'file' ? piece.item : piece.file.contents;
    if (from instanceof Uint8Array) yield from;
    else if (from.kind !== 'folder') yield* this.#archive.contents(from);
  }

  /** What rules would leave out of what was gone through. */
  get sparable(): Sparable {
    return this.#leavingOut.sparable();
  }

  /** So many messages that were asked for lie in the stores of applications. */
  staysInStores(count: number): void {
    if (count > 0) this.tally.stays('applications', 'in-store', count);
  }

  count(piece: Piece, bytes: number): void {
    countPiece(piece, bytes, this.tally);
  }
}

/** Counts a piece that goes over, or arrived. @param bytes of it */
export function countPiece(piece: Piece, bytes: number, tally: CrossingTally): void {
  if (piece.what === 'records') {
    tallyOf(piece.file, tally);
    tally.add(piece.file.class, 'bytes', bytes);
    return;
  }
  const { class: dataClass } = piece.item;
  tally.goes(dataClass, []);
  tally.add(dataClass, 'bytes', bytes);
  if (!piece.isShown) tally.add(dataClass, 'notShown');
  if (piece.isBeside) tally.add(dataClass, 'beside');
}

/** The same for the same bytes. */
const contentsKey = ({ chunks }: ItemRecord): string =>
  createHash('sha256').update(chunks).digest('base64');

type RecordsWay = Extract<ReturnType<CrossingTarget['wayOf']>, { way: 'records' | 'aside' }>;

/** Items whose records are looked at together. */
function bundleOf({ class: dataClass, path }: ItemRecord, number: number): string {
  if (dataClass === 'messages') return `messages ${groupOfPath(path)}`;
  return eachByItself.has(dataClass)
    ? `${dataClass} ${Math.floor(number / ITEMS_AT_ONCE)}`
    : dataClass;
}

/** Bytes that a piece is. */
export const sizeOf = (piece: Piece): number =>
  piece.what === 'file'
    ? piece.item.bytes
    : piece.file.contents instanceof Uint8Array
      ? piece.file.contents.length
      : piece.file.contents.bytes;
