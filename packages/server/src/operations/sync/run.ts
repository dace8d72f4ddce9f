import {
  Failure,
  syncedClasses,
  type Decision,
  failedCount,
  formatCount,
  type FailedItems,
  type Field,
  type MergedKindTold,
  type SyncedKind,
} from '@bright-cellar/core';
import {
  lettersAside,
  amountOfSteps,
  removesTooMuch,
  rememberedAfter,
  type SideName,
  withoutParts,
} from '@bright-cellar/core/merge';
import type { Ending, Job, Run } from '../../engine/job.js';
import type { PartnerCollection } from '../../partners/index.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import {
  closePartner,
  heldSync,
  plan,
  wayOf,
  type HeldSync,
  type KindInStep,
} from './held-syncs.js';
import type { AnyLine } from '@bright-cellar/core/merge';
import { readDevice, readPartner } from './read-sides.js';
import { keepSnapshot, remember, rememberedOf, type Snapshot } from './remembered.js';
import type { SideBook } from './side-book.js';
import { takeBack } from './take-back.js';
import { DeviceWriter } from './device-writer.js';
import { markOf, ownEnd, partnerOf, type DeviceEnd } from './other-side.js';
import { writePartner } from './partner-writer.js';
import type { RecordOf, Telling, Written } from './writing.js';

/** Reads both sides and works out what becomes of everything; or writes it, as it was worked out and decided. */
async function keepInStep(job: Job<'sync'>): Promise<Ending<'sync'>> {
  const elapsed = stopwatch();
  const { input, startedBy } = job;
  const one = heldSync(input.partner, startedBy);
  try {
    if (input.undoes) return await takeBack(job, one, elapsed);
    if (input.regular) await readSides(job, one);
    if (input.writes) return await writeSides(job, one, elapsed);
    await readSides(job, one);
    const kinds = one.kinds.map(toldOf);
    const sums = kinds.map(({ device, partner }) => sumOf(device) + sumOf(partner));
    const items = sums.reduce((all, sum) => all + sum, 0);
    return {
      what: `What would bring both into step: ${formatCount(items)} changes.`,
      result: { items, bytes: 0, failed: [], durationMs: elapsed(), kinds, wrote: false },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was over.',
      safe: 'What was written on either side is there, each entry whole.',
      next: 'Connect the device, and start again: nothing comes twice.',
    });
  } finally {
    if (input.regular) closePartner(input.partner, startedBy);
  }
}

const sumOf = ({ add, change, remove }: MergedKindTold['device']): number => add + change + remove;

function toldOf({ kind, lines, device, partner }: KindInStep): MergedKindTold {
  const isSame = ({ steps, conflict }: AnyLine) =>
    conflict === null && steps.device.do === 'nothing' && steps.partner.do === 'nothing';
  return {
    ...{ kind, same: lines.filter(isSame).length, tooMuch: removesTooMuch(lines) },
    ...{ device: amountOfSteps(lines, 'device'), partner: amountOfSteps(lines, 'partner') },
    open: lines.filter(({ isOpen }) => isOpen).length,
    aside: {
      device: lettersAside(kind, lines, 'device', device.letters),
      partner: lettersAside(kind, lines, 'partner', partner.letters),
    },
  };
}

type Book = Pick<PartnerCollection, 'id' | 'kind'>;
const isIn = (books: readonly Book[], { id, kind }: Book): boolean =>
  books.some((book) => book.id === id && book.kind === kind);

async function readSides(job: Job<'sync'>, one: HeldSync): Promise<void> {
  const { setup } = one;
  if (!setup) throw new Failure('not-found');
  const kinds = [...new Set(setup.books.map(({ kind }) => kind))];
  const chosen = one.books.filter((book) => isIn(setup.books, book));
  const { other } = one;
  const device = await readDevice(job, job.deviceId, kinds);
  const partner =
    other.kind === 'device'
      ? await readDevice(job, other.end.deviceId, kinds)
      : await readPartner(job, partnerOf(other, job.signal), chosen, kinds);
  const before = new Map(one.kinds.map((of) => [of.kind, of]));
  one.kinds = [];
  for (const kind of kinds) {
    const [here, there] = [device.get(kind), partner.get(kind)];
    if (!here || !there) continue;
    const mark = markOf(other);
    const kept = mark ? await rememberedOf(job.db, job.input.serial, mark, kind) : [];
    const remembered = kept.map(({ ids, base }) => ({
      ids: { device: here.calledNow(ids.device), partner: there.calledNow(ids.partner) },
      base,
    }));
    const of: KindInStep = {
      ...{ kind, device: here, partner: there, remembered, lines: [], apart: [], persons: [] },
      planning: Promise.resolve(),
      decisions: before.get(kind)?.decisions ?? new Map<string, Decision>(),
      joins: before.get(kind)?.joins ?? [],
    };
    one.kinds.push(of);
  }
  // Side by side, where there is more than one thread.
  await Promise.all(one.kinds.map((of) => plan(one, of)));
}

async function writeSides(
  job: Job<'sync'>,
  one: HeldSync,
  elapsed: () => number,
): Promise<Ending<'sync'>> {
  const { kinds, books, setup, other } = one;
  if (kinds.length === 0 || !setup) throw new Failure('not-found', notLooked);
  const told = kinds.map(toldOf);
  if (!job.input.removesMeant && told.some(({ tooMuch }) => tooMuch.length > 0)) {
    throw new Failure('not-agreed', tooMuchGoes);
  }
  const failed: FailedItems[] = [];
  const items = told.reduce((all, { device, partner }) => all + sumOf(device) + sumOf(partner), 0);
  await job.progress.phase('sending', { bytes: 0, items });
  const written: Record<SideName, Written> = { device: new Map(), partner: new Map() };
  const snapshot: Snapshot = { kinds: kinds.map(asTheyWere), touched: [] };
  const telling: Telling = {
    failed: (kind, reason, count) =>
      void failed.push({ class: syncedClasses[kind], reason, count }),
    touched: (touched) => void snapshot.touched.push(touched),
  };
  const mark = markOf(other);
  const keep = async () => {
    if (mark) await keepSnapshot(job.db, job.input.serial, mark, snapshot, job.acting.clock.now());
  };
  // Before anything is written: also of what is cut off something can be taken back.
  await keep();
  // The one that it is about is the last.
  const ends: DeviceEnd[] = [...(other.kind === 'device' ? [other.end] : []), ownEnd(job)];
  const writers = await Promise.all(
    ends.map((end) =>
      DeviceWriter.open(
        job,
        end,
        kinds.map((of) => of[end.side]),
        telling,
      ),
    ),
  );
  try {
    if (other.kind !== 'device') {
      const partner = partnerOf(other, job.signal);
      for (const of of kinds) {
        const into = setup.books.find(({ kind }) => kind === of.kind);
        const book = into && books.find((there) => isIn([into], there));
        const went = book && (await writePartner(job, of, partner, book, telling));
        for (const [key, what] of went ?? []) written.partner.set(key, what);
      }
    }
    for (const writer of writers) for (const of of kinds) await writer.write(of);
    await job.progress.phase('comparing', { bytes: 0, items });
    for (const writer of writers) written[writer.side] = await writer.end();
  } catch (error) {
    for (const writer of writers) await writer.giveUp();
    throw error;
  } finally {
    await keep();
    // Also of what was cut off: what both sides have is in step.
    if (mark)
      for (const of of kinds)
        await rememberKind(job, mark, of, written, wayOf(one, of.kind).without);
    // What was read is not how it is any more.
    one.kinds = [];
  }
  const went = items - failedCount(failed);
  return {
    what: `${formatCount(went)} changes were written on both sides, each read back${failed.length > 0 ? `; ${formatCount(failedCount(failed))} were not taken` : ''}.`,
    result: { items: went, bytes: 0, failed, durationMs: elapsed(), kinds: told, wrote: true },
  };
}

/** How both sides of one kind are, and what is remembered of them. */
const asTheyWere = ({ kind, device, partner, remembered }: KindInStep): Snapshot['kinds'][0] => {
  const filesOf = ({ files }: SideBook) =>
    [...files.values()].map(({ id, contents }): [string, string] => [
      id,
      Buffer.from(contents).toString('base64'),
    ]);
  return { kind, remembered, files: { device: filesOf(device), partner: filesOf(partner) } };
};

const notLooked = {
  what: 'Nobody looked yet at what would become of everything.',
  next: 'Look at it first.',
};
const tooMuchGoes = {
  what: 'More would be removed than anybody removes at once.',
  safe: 'Nothing was written.',
  next: 'Look at what goes; if it is meant, say so.',
};

/** What both sides hold of each thing from now on; of what was not written it stays what it was. */
async function rememberKind(
  { db, input, acting }: Job<'sync'>,
  mark: string,
  { kind, lines, remembered, device, partner }: KindInStep,
  written: Readonly<Record<SideName, Written>>,
  without: readonly Field[],
): Promise<void> {
  const key = (ids: { device: string | null; partner: string | null }) =>
    JSON.stringify([ids.device, ids.partner]);
  const before = new Map(remembered.map((pair) => [key(pair.ids), pair]));
  const seen = new Set<string>();
  const inStep = (found: { id: string; record: RecordOf } | null = null) =>
    found && { ...found, record: withoutParts<SyncedKind>(kind, found.record, without) };
  const after = lines.flatMap((line) => {
    seen.add(key(line.ids));
    const isDone = (side: SideName) =>
      line.steps[side].do === 'nothing' || written[side].has(line.key);
    if (!isDone('device') || !isDone('partner')) return before.get(key(line.ids)) ?? [];
    return (
      rememberedAfter<SyncedKind>(kind, line, {
        device: inStep(written.device.get(line.key)),
        partner: inStep(written.partner.get(line.key)),
      }) ?? []
    );
  });
  // Pairs of files that nobody could read, and of things that are gone from one side while they may not go from the other.
  const unread = remembered.filter(
    ({ ids }) =>
      !seen.has(key(ids)) &&
      (device.unreadable.has(ids.device.split('\n')[0] ?? '') ||
        partner.unreadable.has(ids.partner.split('\n')[0] ?? '')),
  );
  await remember(db, input.serial, mark, kind, [...after, ...unread], acting.clock.now());
}

export const syncRun: Run<'sync'> = {
  run: keepInStep,
  abandon: async ({ deviceId, input }, { link }) => {
    if (!input.writes) return;
    for (const id of [deviceId, ...(input.other ? [input.other.deviceId] : [])])
      await link.endAddition(id).catch(() => undefined);
  },
};
