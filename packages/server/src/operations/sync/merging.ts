import { Worker } from 'node:worker_threads';
import type { Decision, Field, SyncedKind, SyncSetup } from '@bright-cellar/core';
import {
  contactAfter,
  plannedMerge,
  samePersons,
  withJoined,
  withoutParts,
  type Held,
  type MergedRecords,
  type MergeLine,
  type Remembered,
  type SamePerson,
} from '@bright-cellar/core/merge';

type RecordOf = MergedRecords[SyncedKind];
export type AnyLine = MergeLine<RecordOf>;
export type AnyRemembered = Remembered<RecordOf>;

/** Both sides of one kind, and what was said of them. */
export interface Merging {
  kind: SyncedKind;
  device: readonly Held<RecordOf>[];
  partner: readonly Held<RecordOf>[];
  remembered: readonly AnyRemembered[];
  decisions: ReadonlyMap<string, Decision>;
  /** Lines of contacts that are one person, by their keys: the one that stays first. */
  joins: readonly [stays: string, goes: string][];
  way: SyncSetup['ways'][SyncedKind];
}

/** What becomes of everything, before any are joined and with that; and who may be the same person. */
export interface Merged {
  apart: AnyLine[];
  lines: AnyLine[];
  persons: (SamePerson & { contacts: [MergedRecords['contacts'], MergedRecords['contacts']] })[];
}

export function merged({ kind, way, joins, ...sides }: Merging): Merged {
  const { without, ...how } = way;
  const inStep = (record: RecordOf) => withoutParts<SyncedKind>(kind, record, without);
  const part = (held: Held<RecordOf>) => ({ ...held, record: inStep(held.record) });
  const apart = plannedMerge<SyncedKind>(kind, {
    ...{ device: sides.device.map(part), partner: sides.partner.map(part), ...how },
    decisions: sides.decisions,
    remembered: sides.remembered.map(({ ids, base }) => ({
      ids,
      base: { device: inStep(base.device), partner: inStep(base.partner) },
    })),
  });
  // Contacts only, where both sides may be written, and all of each is known.
  if (kind !== 'contacts' || !mayJoin(how.direction, without))
    return { apart, lines: apart, persons: [] };
  const contacts = apart as MergeLine<MergedRecords['contacts']>[];
  return { apart, lines: withJoined(contacts, joins), persons: personsIn(contacts) };
}

const mayJoin = (direction: string, without: readonly Field[]): boolean =>
  direction === 'both' && without.length === 0;

/** Contacts as they will be on both sides that may be one person's, each by the place of its line; the surest first. */
function personsIn(lines: readonly MergeLine<MergedRecords['contacts']>[]): Merged['persons'] {
  const after = lines.flatMap((line, at) => {
    const contact = contactAfter(line);
    return contact ? [{ at, contact }] : [];
  });
  return samePersons(after.map(({ contact }) => contact)).flatMap((pair) => {
    const [one, other] = [after[pair.one], after[pair.other]];
    if (!one || !other) return [];
    return [{ ...pair, one: one.at, other: other.at, contacts: [one.contact, other.contact] }];
  });
}

/** So few are merged sooner than a thread has begun. */
const FEW = 2_000;

/** The same, in a thread of its own where there is much: whoever asks this process for something else does not wait for it. */
export async function mergedBeside(merging: Merging): Promise<Merged> {
  const { device, partner } = merging;
  // Threads cannot run TypeScript.
  const isSource = import.meta.url.endsWith('.ts');
  if (isSource || device.length + partner.length < FEW) return merged(merging);
  const worker = new Worker(new URL('../threads/merging-thread.js', import.meta.url), {
    workerData: merging,
  });
  return new Promise((resolve, reject) => {
    worker.once('message', resolve);
    worker.once('error', reject);
    worker.once('exit', () => reject(new Error('the thread that merges ended without an answer')));
  });
}
