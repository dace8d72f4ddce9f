import type { Field } from '../records/fields.js';
import type { MergeField, MergeRules } from './fields.js';

export type SideName = 'device' | 'partner';
export const otherSide = (side: SideName): SideName => (side === 'device' ? 'partner' : 'device');

/** A thing as each side has it. */
export interface BothSides<T> {
  device: T;
  partner: T;
}

/** A thing as each side keeps it, which may be less than it was given. */
export type Keeping<T> = Readonly<Record<SideName, (thing: T) => T>>;

/** Which sides may be written. */
export type Writes = Readonly<Record<SideName, boolean>>;

export interface MergedPair<T> {
  /** What each side holds after. */
  after: BothSides<T>;
  /** What is written on each, by its parts. */
  changed: Record<SideName, Field[]>;
  /** Parts that both changed, each otherwise. */
  conflicts: Field[];
  /** What is remembered as the state of both, to tell the next change by. */
  base: BothSides<T>;
  /** Parts of each side that the other was not told of: they stay changes, whatever else was written. */
  untold: Record<SideName, Field[]>;
}

/**
 * Merges one thing that both sides have, part by part, against what each side held when they were last in step. Each side is
 * compared with its own: what did not fit onto one then is no change of it now.
 * @param base null where they were never in step
 * @param wins of parts that both changed: whose stands; null leaves them as they are
 * @param keeping what the one holds of what the other does: where it is that already, they are the same
 */
export function mergedPair<T>(
  { fields }: MergeRules<T>,
  base: BothSides<T> | null,
  now: BothSides<T>,
  writes: Writes,
  wins: SideName | null,
  keeping: Keeping<T>,
): MergedPair<T> {
  const merged: MergedPair<T> = {
    after: { ...now },
    changed: { device: [], partner: [] },
    conflicts: [],
    base: { ...now },
    untold: { device: [], partner: [] },
  };
  const kept = { device: keeping.device(now.partner), partner: keeping.partner(now.device) };
  for (const field of fields) {
    const isKept = field.same(now.device, kept.device) || field.same(kept.partner, now.partner);
    if (!isKept) mergeField(field, base, now, writes, wins, merged);
  }
  return merged;
}

function mergeField<T>(
  field: MergeField<T>,
  base: BothSides<T> | null,
  now: BothSides<T>,
  writes: Writes,
  wins: SideName | null,
  merged: MergedPair<T>,
): void {
  const { same, many } = field;
  if (many) return mergeSeveral({ ...field, many }, base, now, writes, merged);
  const isChanged = (side: SideName) => !base || !same(now[side], base[side]);
  const changed = { device: isChanged('device'), partner: isChanged('partner') };
  // What each had then is as it was: they differ since one of them cannot hold the other's.
  if (!changed.device && !changed.partner) return;
  const from = changed.device !== changed.partner ? sideOf(changed) : filled(field, base, now);
  if (from === null) merged.conflicts.push(field.field);
  take(field, from ?? wins, base, now, writes, merged);
}

/** What is remembered of a side once it was written: what it holds then, but for what the other was not told of. */
export function rememberedSide<T>(
  { fields }: MergeRules<T>,
  held: T,
  base: T,
  untold: readonly Field[],
): T {
  return fields
    .filter(({ field }) => untold.includes(field))
    .reduce((remembered, field) => field.taken(remembered, base), held);
}

const sideOf = ({ device }: Record<SideName, boolean>): SideName => (device ? 'device' : 'partner');

/** Never in step, and only one of them says anything. */
function filled<T>(
  { said }: MergeField<T>,
  base: BothSides<T> | null,
  now: BothSides<T>,
): SideName | null {
  if (base) return null;
  if (said(now.partner) === '') return 'device';
  return said(now.device) === '' ? 'partner' : null;
}

/** One side's part stands on both, where the other may be written. */
function take<T>(
  field: MergeField<T>,
  from: SideName | null,
  base: BothSides<T> | null,
  now: BothSides<T>,
  writes: Writes,
  merged: MergedPair<T>,
): void {
  if (from !== null && writes[otherSide(from)]) {
    const onto = otherSide(from);
    merged.after[onto] = field.taken(merged.after[onto], now[from]);
    merged.base[onto] = field.taken(merged.base[onto], now[from]);
    merged.changed[onto].push(field.field);
    return;
  }
  // Not said further, or not decided: it stays a change until it is.
  for (const side of ['device', 'partner'] as const) {
    const then = base ? base[side] : now[otherSide(side)];
    if (from !== null && side !== from) continue;
    merged.base[side] = field.taken(merged.base[side], then);
    merged.untold[side].push(field.field);
  }
}

/** Values that came on one side come on the other, and values that went go; all others stay where they are. */
function mergeSeveral<T>(
  field: MergeField<T> & Required<Pick<MergeField<T>, 'many'>>,
  base: BothSides<T> | null,
  now: BothSides<T>,
  writes: Writes,
  merged: MergedPair<T>,
): void {
  const { of, put } = field.many;
  const keysOf = (record: T) => new Set(of(record).map(({ key }) => key));
  for (const side of ['device', 'partner'] as const) {
    const from = otherSide(side);
    const mine = keysOf(now[side]);
    const theirs = keysOf(now[from]);
    const then = base ? keysOf(base[from]) : new Set<string>();
    const come = of(now[from]).filter(({ key }) => !then.has(key) && !mine.has(key));
    const gone = new Set([...then].filter((key) => !theirs.has(key) && mine.has(key)));
    if (come.length === 0 && gone.size === 0) continue;
    if (!writes[side]) {
      const left = base ? of(base[from]) : of(now[side]);
      merged.base[from] = put(
        merged.base[from],
        left.map(({ value }) => value),
      );
      merged.untold[from].push(field.field);
      continue;
    }
    const values = [...of(now[side]).filter(({ key }) => !gone.has(key)), ...come];
    const listed = values.map(({ value }) => value);
    merged.after[side] = put(merged.after[side], listed);
    merged.base[side] = put(merged.base[side], listed);
    merged.changed[side].push(field.field);
  }
}
