import {
  Failure,
  syncedClasses,
  failedCount,
  formatCount,
  type FailedItems,
  type SyncedKind,
} from '@bright-cellar/core';
import type { Ending, Job } from '../../engine/job.js';
import type { Partner, PartnerCollection } from '../../partners/index.js';
import type { HeldSync } from './held-syncs.js';
import { readDevice } from './read-sides.js';
import { dropSnapshot, remember, snapshotOf, type Snapshot, type Touched } from './remembered.js';
import { DeviceWriter } from './device-writer.js';
import { markOf, ownEnd, partnerOf, type DeviceEnd } from './other-side.js';
import type { SideBook } from './side-book.js';
import { digestOf, type Telling } from './writing.js';

/** Takes back what was written last, on both sides, file by file: only where nobody changed it since. */
export async function takeBack(
  job: Job<'sync'>,
  one: HeldSync,
  elapsed: () => number,
): Promise<Ending<'sync'>> {
  const { db, input, progress, signal } = job;
  const { other } = one;
  const mark = markOf(other);
  const snapshot = mark && (await snapshotOf(db, input.serial, mark));
  if (!snapshot) {
    throw new Failure('not-found', {
      what: 'There is nothing to take back: nothing was written since both were last as they are.',
    });
  }
  const failed: FailedItems[] = [];
  const telling: Telling = {
    failed: (kind, reason, count) =>
      void failed.push({ class: syncedClasses[kind], reason, count }),
    touched: () => undefined,
  };
  const ends: DeviceEnd[] = [...(other.kind === 'device' ? [other.end] : []), ownEnd(job)];
  const kinds = snapshot.kinds.map(({ kind }) => kind);
  const books = new Map<DeviceEnd, ReadonlyMap<SyncedKind, SideBook>>();
  for (const end of ends) books.set(end, await readDevice(job, end.deviceId, kinds));
  await progress.phase('sending', { bytes: 0, items: snapshot.touched.length });
  if (other.kind !== 'device') {
    const partner = partnerOf(other, signal);
    for (const touched of snapshot.touched.filter(({ side }) => side === 'partner')) {
      signal.throwIfAborted();
      if (!(await backOnPartner(partner, one.books, snapshot, touched)))
        telling.failed(touched.kind, CHANGED, 1);
      progress.add(0, 1);
    }
  }
  const writers: DeviceWriter[] = [];
  try {
    for (const [end, held] of books) {
      const writer = await DeviceWriter.open(job, end, held.values(), telling);
      writers.push(writer);
      await backOnDevice(writer, held, snapshot, telling);
    }
    await progress.phase('comparing', { bytes: 0, items: snapshot.touched.length });
    for (const writer of writers) await writer.end();
  } catch (error) {
    for (const writer of writers) await writer.giveUp();
    throw error;
  }
  for (const { kind, remembered } of snapshot.kinds)
    await remember(db, input.serial, mark, kind, remembered, job.acting.clock.now());
  await dropSnapshot(db, input.serial, mark);
  one.kinds = [];
  const items = snapshot.touched.length - failedCount(failed);
  return {
    what: `${formatCount(items)} entries on both sides are as they were before they were last brought into step${failed.length > 0 ? `; ${formatCount(failedCount(failed))} were changed since, and stay` : ''}.`,
    result: { items, bytes: 0, failed, durationMs: elapsed(), kinds: [], wrote: true },
  };
}

const CHANGED = 'it was changed since';

function beforeOf(snapshot: Snapshot, { kind, side, id }: Touched): Buffer | null {
  const files = snapshot.kinds.find((of) => of.kind === kind)?.files[side] ?? [];
  const found = files.find(([one]) => one === id)?.[1];
  return found === undefined ? null : Buffer.from(found, 'base64');
}

async function backOnDevice(
  writer: DeviceWriter,
  books: ReadonlyMap<SyncedKind, SideBook>,
  snapshot: Snapshot,
  telling: Telling,
): Promise<void> {
  for (const touched of snapshot.touched.filter(({ side }) => side === writer.side)) {
    const now = books.get(touched.kind)?.files.get(touched.id);
    const before = beforeOf(snapshot, touched);
    if ((now ? digestOf(now.contents) : null) !== touched.after) {
      telling.failed(touched.kind, CHANGED, 1);
    } else if (before !== null) {
      await writer.put(touched.kind, touched.id, before, [], now?.tag);
    } else if (now) {
      await writer.take(touched.kind, { path: now.id, revision: now.tag }, []);
    }
  }
}

/** @returns false where it is not as it was written any more */
async function backOnPartner(
  partner: Partner,
  books: readonly PartnerCollection[],
  snapshot: Snapshot,
  touched: Touched,
): Promise<boolean> {
  const book = bookOf(books, touched);
  if (!book) return false;
  const now = await partner.resource(book, touched.id);
  if ((now ? digestOf(now.contents) : null) !== touched.after) return false;
  const before = beforeOf(snapshot, touched);
  if (now && before) await partner.replace(now, before);
  else if (now) await partner.remove(now);
  else if (before) await partner.create(book, nameIn(touched.id), before);
  return true;
}

const bookOf = (books: readonly PartnerCollection[], { id, kind }: Touched) =>
  books.find((book) => book.kind === kind && id.startsWith(book.id));
const nameIn = (id: string): string =>
  decodeURIComponent(new URL(id).pathname.split('/').at(-1) ?? '').replace(/\.[^.]*$/, '');
