import type { Field } from '../records/fields.js';
import { shortened, type Letters } from '../device/index.js';
import type { MergedKind, MergedRecords } from './fields.js';
import { contactAfter, withJoined } from './join.js';
import type { BothSides, SideName } from './merge-record.js';
import { plannedMerge, type Held, type MergeLine, type Remembered, type Step } from './plan.js';
import type { ConflictRule, Decision, SyncDirection } from './rules.js';
import { samePersons, type SamePerson } from './same-person.js';
import { withoutParts } from './without.js';

export type AnyRecordInStep = MergedRecords[MergedKind];
export type AnyLine = MergeLine<AnyRecordInStep>;
export type AnyRemembered = Remembered<AnyRecordInStep>;

/** How a kind is kept in step. */
export interface MergeWay {
  direction: SyncDirection;
  /** Whose word counts where both sides changed the same. */
  rule: ConflictRule;
  /** Parts that each side keeps to itself. */
  without: readonly Field[];
}

/** Both sides of one kind, and what was said of them. */
export interface Merging {
  kind: MergedKind;
  device: readonly Held<AnyRecordInStep>[];
  partner: readonly Held<AnyRecordInStep>[];
  remembered: readonly AnyRemembered[];
  decisions: ReadonlyMap<string, Decision>;
  /** Lines of contacts that are one person, by their keys: the one that stays first. */
  joins: readonly [stays: string, goes: string][];
  way: MergeWay;
  /** How much each side keeps of a field. */
  letters: BothSides<Letters>;
}

/** What becomes of everything, before any are joined and with that; and who may be the same person. */
export interface Merged {
  apart: AnyLine[];
  lines: AnyLine[];
  persons: (SamePerson & { contacts: [MergedRecords['contacts'], MergedRecords['contacts']] })[];
}

/** A record as far as it is kept in step. */
export const inStepOf =
  ({ kind, way }: Pick<Merging, 'kind' | 'way'>) =>
  (record: AnyRecordInStep): AnyRecordInStep =>
    withoutParts<MergedKind>(kind, record, way.without);

export function merged({ kind, way, joins, letters, ...sides }: Merging): Merged {
  const { without, ...how } = way;
  const inStep = inStepOf({ kind, way });
  const part = (held: Held<AnyRecordInStep>) => ({ ...held, record: inStep(held.record) });
  const apart = plannedMerge<MergedKind>(kind, {
    ...{ device: sides.device.map(part), partner: sides.partner.map(part), ...how, letters },
    decisions: sides.decisions,
    remembered: sides.remembered.map(({ ids, base }) => ({
      ids,
      base: { device: inStep(base.device), partner: inStep(base.partner) },
    })),
  });
  // Contacts only, where both sides may be written, and all of each is known.
  if (kind !== 'contacts' || !mayJoin(how.direction, without))
    return kept(kind, letters, { apart, lines: apart, persons: [] });
  const contacts = apart as MergeLine<MergedRecords['contacts']>[];
  const lines = withJoined(contacts, joins);
  return kept(kind, letters, { apart, lines, persons: personsIn(contacts) });
}

/** What is written is what that side keeps of it: the other has all of it still. */
function kept(
  kind: MergedKind,
  letters: BothSides<Letters>,
  { apart, lines, persons }: Merged,
): Merged {
  const step = (side: SideName, one: Step<AnyRecordInStep>): Step<AnyRecordInStep> =>
    'record' in one ? { ...one, record: shortened(kind, one.record, letters[side]) } : one;
  const isAll = (side: SideName) => Object.keys(letters[side]).length === 0;
  const line = (one: AnyLine): AnyLine => ({
    ...one,
    steps: {
      device: step('device', one.steps.device),
      partner: step('partner', one.steps.partner),
    },
  });
  if (isAll('device') && isAll('partner')) return { apart, lines, persons };
  const all = apart.map(line);
  return { apart: all, lines: lines === apart ? all : lines.map(line), persons };
}

/** Things of which a side keeps less than the other has. */
export const lettersAside = (
  kind: MergedKind,
  lines: readonly Pick<AnyLine, 'partner' | 'device' | 'steps'>[],
  side: SideName,
  letters: Letters,
): number =>
  lines.filter((line) => {
    const other = line[side === 'device' ? 'partner' : 'device'];
    const isThere = line[side] !== null || line.steps[side].do === 'add';
    return other !== null && isThere && shortened(kind, other.record, letters) !== other.record;
  }).length;

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
