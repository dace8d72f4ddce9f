import {
  Failure,
  syncedClasses,
  failedCount,
  formatCount,
  type FailedItems,
  type SyncedKind,
} from '@bright-cellar/core';
import type { Ending, Job } from '../../engine/job.js';
import type { PartnerCollection } from '../../partners/index.js';
import type { HeldSync } from './held-syncs.js';
import { readDevice } from './read-sides.js';
import { dropSnapshot, remember, snapshotOf, type Snapshot, type Touched } from './remembered.js';
import { DeviceWriter, digestOf } from './write-sides.js';

/** Takes back what was written last, on both sides, file by file: only where nobody changed it since. */
export async function takeBack(
  job: Job<'sync'>,
  one: HeldSync,
  elapsed: () => number,
): Promise<Ending<'sync'>> {
  const { db, input, progress, signal } = job;
  const { site } = one;
  const snapshot = site && (await snapshotOf(db, input.serial, site));
  if (!snapshot) {
    throw new Failure('not-found', {
      what: 'There is nothing to take back: nothing was written since both were last as they are.',
    });
  }
  const failed: FailedItems[] = [];
  const onFailed = (kind: SyncedKind, reason: string, count: number) => {
    failed.push({ class: syncedClasses[kind], reason, count });
  };
  const kinds = snapshot.kinds.map(({ kind }) => kind);
  const books = await readDevice(job, kinds);
  await progress.phase('sending', { bytes: 0, items: snapshot.touched.length });
  for (const touched of snapshot.touched.filter(({ side }) => side === 'partner')) {
    signal.throwIfAborted();
    if (!(await backOnPartner(one, snapshot, touched))) onFailed(touched.kind, CHANGED, 1);
    progress.add(0, 1);
  }
  const there = [...books].map(([kind, device]) => ({ kind, device }));
  const writer = await DeviceWriter.open(job, there, onFailed, () => undefined);
  try {
    for (const touched of snapshot.touched.filter(({ side }) => side === 'device')) {
      const now = books.get(touched.kind)?.files.get(touched.id);
      const before = beforeOf(snapshot, touched);
      if ((now ? digestOf(now.contents) : null) !== touched.after) {
        onFailed(touched.kind, CHANGED, 1);
      } else if (before !== null) {
        await writer.put(touched.kind, touched.id, before, [], now?.tag);
      } else if (now) {
        await writer.take(touched.kind, { path: now.id, revision: now.tag }, []);
      }
    }
    await progress.phase('comparing', { bytes: 0, items: snapshot.touched.length });
    await writer.end();
  } catch (error) {
    await writer.giveUp();
    throw error;
  }
  for (const { kind, remembered } of snapshot.kinds)
    await remember(db, input.serial, site, kind, remembered, job.acting.clock.now());
  await dropSnapshot(db, input.serial, site);
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

/** @returns false where it is not as it was written any more */
async function backOnPartner(
  { partner, books }: HeldSync,
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
