import type { Field } from '../records/fields.js';
import { mergeRules, type MergedKind, type MergedRecords, type MergeRules } from './fields.js';
import { shortened, type Letters } from '../device/index.js';
import {
  mergedPair,
  rememberedSide,
  otherSide,
  type BothSides,
  type Keeping,
  type MergedPair,
  type SideName,
  type Writes,
} from './merge-record.js';
import { pairedAnew } from './pairing.js';
import type { ConflictRule, Decision, SyncDirection } from './rules.js';

/** A record as one side holds it. */
export interface Held<T> {
  /** What that side calls it: a path, an address. */
  id: string;
  record: T;
  /** ms since 1970; null where that side does not say. */
  changedAt: number | null;
}

/** What was in step when it last was: what each side called it, and what each held. */
export interface Remembered<T> {
  ids: BothSides<string>;
  base: BothSides<T>;
}

const writesOf: Readonly<Record<SyncDirection, Writes>> = {
  both: { device: true, partner: true },
  'onto-device': { device: true, partner: false },
  'off-device': { device: false, partner: true },
};

/** What becomes of a thing on one side. */
export type Step<T> =
  | { do: 'nothing' }
  | { do: 'add'; record: T }
  | { do: 'change'; id: string; record: T; fields: Field[] }
  | { do: 'remove'; id: string };

/** Both sides changed it, each otherwise. */
export type Conflict =
  | { about: 'fields'; fields: Field[] }
  /** One side removed what the other changed. */
  | { about: 'removed'; on: SideName };

/** One thing, on both sides, and what becomes of it. */
export interface MergeLine<T> {
  /** The same in every plan of the same things. */
  key: string;
  device: Held<T> | null;
  partner: Held<T> | null;
  steps: { device: Step<T>; partner: Step<T> };
  conflict: Conflict | null;
  /** A conflict that nobody has decided: nothing is done about what it is about. */
  isOpen: boolean;
  /** What is remembered once the steps are done; null where nothing is. A side that had no name for it gets one then. */
  base: BothSides<T> | null;
  /** Parts of each side that the other is not told of now. */
  untold: Readonly<Record<SideName, readonly Field[]>>;
  /** What each side called it when it was last in step. */
  ids: { device: string | null; partner: string | null };
}

/** What goes in. */
export interface MergeInput<T> {
  device: readonly Held<T>[];
  partner: readonly Held<T>[];
  remembered: readonly Remembered<T>[];
  direction: SyncDirection;
  rule: ConflictRule;
  /** How much each side keeps of a field; all of it where nothing is said. */
  letters?: BothSides<Letters>;
  /** By the key of its line. */
  decisions?: ReadonlyMap<string, Decision>;
}

const nothing = { do: 'nothing' } as const;
const allTold = { device: [], partner: [] } as const;
/** The same in every plan of the same things. */
export const lineKey = (device: string | null, partner: string | null): string =>
  JSON.stringify([device, partner]);

/** Everything that is on either side, and what becomes of it. Nothing is written by it. */
export function plannedMerge<Kind extends MergedKind>(
  kind: Kind,
  input: MergeInput<MergedRecords[Kind]>,
): MergeLine<MergedRecords[Kind]>[] {
  type T = MergedRecords[Kind];
  const rules = mergeRules[kind] as unknown as MergeRules<T>;
  const keeping = {
    device: (record: T) => shortened(kind, record, input.letters?.device ?? {}),
    partner: (record: T) => shortened(kind, record, input.letters?.partner ?? {}),
  };
  const planner = new Planner<T>(rules, input, keeping);
  const device = new Map(input.device.map((held) => [held.id, held]));
  const partner = new Map(input.partner.map((held) => [held.id, held]));
  const lines: MergeLine<T>[] = [];
  const forgotten: Remembered<T>[] = [];
  for (const remembered of input.remembered) {
    const { ids } = remembered;
    const [here, there] = [device.get(ids.device) ?? null, partner.get(ids.partner) ?? null];
    device.delete(ids.device);
    partner.delete(ids.partner);
    if (here && there) lines.push(planner.both(here, there, remembered.base));
    else if (here ?? there) lines.push(planner.removed(remembered, here, there));
    else forgotten.push(remembered);
  }
  const [newHere, newThere] = [[...device.values()], [...partner.values()]];
  const pairs = pairedAnew(
    kind,
    newHere.map(({ record }) => keeping.partner(record)),
    newThere.map(({ record }) => keeping.device(record)),
  );
  const paired = { device: new Set<number>(), partner: new Set<number>() };
  for (const [one, other] of pairs) {
    const [here, there] = [newHere[one], newThere[other]];
    if (!here || !there) continue;
    paired.device.add(one);
    paired.partner.add(other);
    lines.push(planner.both(here, there, null));
  }
  for (const [at, held] of newHere.entries())
    if (!paired.device.has(at)) lines.push(planner.onlyOn('device', held));
  for (const [at, held] of newThere.entries())
    if (!paired.partner.has(at)) lines.push(planner.onlyOn('partner', held));
  return lines;
}

class Planner<T> {
  readonly #rules: MergeRules<T>;
  readonly #writes: Writes;
  readonly #input: MergeInput<T>;
  readonly #keeping: Keeping<T>;

  constructor(rules: MergeRules<T>, input: MergeInput<T>, keeping: Keeping<T>) {
    this.#keeping = keeping;
    this.#rules = rules;
    this.#input = input;
    this.#writes = writesOf[input.direction];
  }

  /** Both have it. */
  both(device: Held<T>, partner: Held<T>, base: BothSides<T> | null): MergeLine<T> {
    const now = { device: device.record, partner: partner.record };
    const line: MergeLine<T> = {
      ...{ key: lineKey(device.id, partner.id), device, partner, conflict: null, isOpen: false },
      ...{ steps: { device: nothing, partner: nothing }, base: now },
      ...{ ids: { device: device.id, partner: partner.id }, untold: allTold },
    };
    // Most of what is kept in step is as it was: that is seen without taking it apart.
    if (base && isAsItWas(base.device, now.device) && isAsItWas(base.partner, now.partner))
      return { ...line, base };
    const open = mergedPair(this.#rules, base, now, this.#writes, null, this.#keeping);
    if (open.conflicts.length === 0) return this.#changed(line, open);
    const conflict: Conflict = { about: 'fields', fields: open.conflicts };
    const decision = this.#decided(line);
    if (decision === 'both') return { ...this.#keptBoth(line), conflict };
    if (decision === null) return { ...this.#changed(line, open), conflict, isOpen: true };
    const merged = mergedPair(this.#rules, base, now, this.#writes, decision, this.#keeping);
    return { ...this.#changed(line, merged), conflict };
  }

  #changed(line: MergeLine<T>, { after, changed, base, untold }: MergedPair<T>): MergeLine<T> {
    const step = (side: SideName): Step<T> =>
      changed[side].length === 0
        ? nothing
        : { do: 'change', id: line.ids[side] ?? '', record: after[side], fields: changed[side] };
    return { ...line, steps: { device: step('device'), partner: step('partner') }, base, untold };
  }

  /** Each side gets the other's beside its own. */
  #keptBoth(line: MergeLine<T>): MergeLine<T> {
    const added = (side: SideName): Step<T> => {
      const other = line[otherSide(side)];
      return this.#writes[side] && other ? { do: 'add', record: other.record } : nothing;
    };
    return {
      ...line,
      steps: { device: added('device'), partner: added('partner') },
      // Four things now: each is told from its other half by what it says.
      base: null,
    };
  }

  /** One side has it no more. */
  removed(
    { ids, base }: Remembered<T>,
    device: Held<T> | null,
    partner: Held<T> | null,
  ): MergeLine<T> {
    const gone: SideName = device ? 'partner' : 'device';
    const left = otherSide(gone);
    const held = device ?? partner;
    const line: MergeLine<T> = {
      ...{ key: lineKey(ids.device, ids.partner), device, partner, conflict: null, isOpen: false },
      ...{ steps: { device: nothing, partner: nothing }, base, ids, untold: allTold },
    };
    if (!held) return line;
    const isChanged = !this.#rules.fields.every(({ same }) => same(held.record, base[left]));
    const remove = {
      ...line,
      base: null,
      steps: { ...line.steps, [left]: this.#remove(left, held) },
    };
    if (!isChanged) return this.#writes[left] ? remove : line;
    const conflict: Conflict = { about: 'removed', on: gone };
    const decision = this.#decided(line);
    if (decision === null) return { ...line, conflict, isOpen: true };
    if (decision === gone)
      return this.#writes[left] ? { ...remove, conflict } : { ...line, conflict };
    if (!this.#writes[gone]) return { ...line, conflict };
    const back: Step<T> = { do: 'add', record: held.record };
    return {
      ...{ ...line, conflict, steps: { ...line.steps, [gone]: back } },
      ...{ base: sameOnBoth(held.record), ids: { ...ids, [gone]: null } },
    };
  }

  #remove(side: SideName, { id }: Held<T>): Step<T> {
    return this.#writes[side] ? { do: 'remove', id } : nothing;
  }

  /** Only one side has it, and they were never in step of it. */
  onlyOn(side: SideName, held: Held<T>): MergeLine<T> {
    const other = otherSide(side);
    const isSent = this.#writes[other];
    const ids = { device: null, partner: null, [side]: held.id };
    return {
      ...{ key: lineKey(ids.device, ids.partner), ids, conflict: null, isOpen: false },
      ...{ device: null, partner: null, [side]: held },
      steps: {
        ...{ device: nothing, partner: nothing },
        ...(isSent ? { [other]: { do: 'add', record: held.record } } : {}),
      },
      ...{ base: isSent ? sameOnBoth(held.record) : null, untold: allTold },
    };
  }

  /** Whose word counts of one; null where somebody must be asked. */
  #decided({ key, device, partner }: MergeLine<T>): Decision | null {
    const { decisions, rule, direction } = this.#input;
    const decided = decisions?.get(key);
    if (decided) return decided;
    if (direction !== 'both') return direction === 'onto-device' ? 'partner' : 'device';
    if (rule === 'ask') return null;
    if (rule !== 'newer') return rule;
    const [here, there] = [device?.changedAt ?? null, partner?.changedAt ?? null];
    if (here === null || there === null || here === there) return null;
    return here > there ? 'device' : 'partner';
  }
}

/**
 * What is remembered of a line once its steps are done; null where nothing is.
 * @param after what each side calls it and holds then, read back from it; null where it has none
 */
export function rememberedAfter<Kind extends MergedKind>(
  kind: Kind,
  { base, untold, ids, steps }: MergeLine<MergedRecords[Kind]>,
  after: Readonly<Record<SideName, Pick<Held<MergedRecords[Kind]>, 'id' | 'record'> | null>>,
): Remembered<MergedRecords[Kind]> | null {
  const rules = mergeRules[kind] as unknown as MergeRules<MergedRecords[Kind]>;
  const [device, partner] = [after.device?.id ?? ids.device, after.partner?.id ?? ids.partner];
  if (base === null || device === null || partner === null) return null;
  const side = (name: SideName) => {
    const held = steps[name].do === 'nothing' ? undefined : after[name]?.record;
    return held === undefined ? base[name] : rememberedSide(rules, held, base[name], untold[name]);
  };
  return { ids: { device, partner }, base: { device: side('device'), partner: side('partner') } };
}

const isAsItWas = (then: unknown, now: unknown): boolean =>
  then === now || JSON.stringify(then) === JSON.stringify(now);
const sameOnBoth = <T>(record: T): BothSides<T> => ({ device: record, partner: record });

/** What steps there are on one side. */
export function amountOfSteps<T>(lines: readonly MergeLine<T>[], side: SideName) {
  const amount = { add: 0, change: 0, remove: 0 };
  for (const { steps } of lines) {
    const what = steps[side].do;
    if (what !== 'nothing') amount[what] += 1;
  }
  return amount;
}

/** So much of what a side holds may go at once, of 1, before somebody must say that it is meant; a handful always may. */
const REMOVED_AT_MOST = 0.03;
const HANDFUL = 3;

/** Sides of which more would be removed than anybody removes at once. */
export const removesTooMuch = <T>(lines: readonly MergeLine<T>[]): SideName[] =>
  (['device', 'partner'] as const).filter((side) => {
    const { remove } = amountOfSteps(lines, side);
    const held = lines.filter((line) => line[side] !== null).length;
    return remove > HANDFUL && remove > held * REMOVED_AT_MOST;
  });
