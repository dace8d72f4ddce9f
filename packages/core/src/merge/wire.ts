import type { BothSides, SideName } from './merge-record.js';
import {
  inStepOf,
  type AnyLine,
  type AnyRecordInStep,
  type Merged,
  type Merging,
} from './merging.js';
import { lineKey, type Step } from './plan.js';

/**
 * What goes to the thread that merges and comes back from it, as JSON: half as much as copies of objects take, and of what comes
 * back only what is not known here already.
 */
export function asked({ decisions, ...merging }: Merging): string {
  return JSON.stringify({ ...merging, decisions: [...decisions] });
}
export function heard(text: string): Merging {
  const { decisions, ...merging } = JSON.parse(text) as Omit<Merging, 'decisions'> & {
    decisions: [string, never][];
  };
  return { ...merging, decisions: new Map(decisions) };
}

/** A record that both know: of a side, or remembered of it, by its place; or one that is new. */
type Ref = [SideName | 'device-then' | 'partner-then', number] | { record: AnyRecordInStep };
type WireStep = Omit<Step<AnyRecordInStep>, 'record'> & { record?: Ref };
/** What is mostly so is not said: nothing is done, nobody need decide, and it is called what its sides call it. */
interface WireLine extends Partial<
  Pick<AnyLine, 'key' | 'ids' | 'conflict' | 'isOpen' | 'untold'>
> {
  device: number | null;
  partner: number | null;
  base: BothSides<Ref> | null;
  steps?: Record<SideName, WireStep>;
}
interface WireMerged extends Pick<Merged, 'persons'> {
  apart: WireLine[];
  /** Null where they are the same. */
  lines: WireLine[] | null;
}

/** @param merging as it was merged: its own objects are what lines are made of */
export function answered(merging: Merging, merged: Merged): string {
  const places = new Map<object, Ref>();
  for (const [at, { base }] of merging.remembered.entries()) {
    places.set(base.device, ['device-then', at]);
    places.set(base.partner, ['partner-then', at]);
  }
  for (const side of ['device', 'partner'] as const)
    for (const [at, { record }] of merging[side].entries()) places.set(record, [side, at]);
  const byId = {
    device: new Map(merging.device.map(({ id }, at) => [id, at])),
    partner: new Map(merging.partner.map(({ id }, at) => [id, at])),
  };
  const ref = (record: AnyRecordInStep): Ref => places.get(record) ?? { record };
  const step = (one: Step<AnyRecordInStep>): WireStep =>
    'record' in one ? { ...one, record: ref(one.record) } : one;
  const wire = (line: AnyLine): WireLine => {
    const { key, ids, conflict, isOpen, untold, steps } = line;
    const own = idsOf(line);
    return {
      device: line.device && (byId.device.get(line.device.id) ?? null),
      partner: line.partner && (byId.partner.get(line.partner.id) ?? null),
      base: line.base && { device: ref(line.base.device), partner: ref(line.base.partner) },
      ...(own.device === ids.device && own.partner === ids.partner ? {} : { ids }),
      ...(key === lineKey(ids.device, ids.partner) ? {} : { key }),
      ...(conflict === null ? {} : { conflict }),
      ...(isOpen ? { isOpen } : {}),
      ...(untold.device.length + untold.partner.length === 0 ? {} : { untold }),
      ...(steps.device.do === 'nothing' && steps.partner.do === 'nothing'
        ? {}
        : { steps: { device: step(steps.device), partner: step(steps.partner) } }),
    };
  };
  const { apart, lines, persons } = merged;
  const all: WireMerged = {
    ...{ apart: apart.map(wire), persons },
    lines: lines === apart ? null : lines.map(wire),
  };
  return JSON.stringify(all);
}

export function understood(merging: Merging, text: string): Merged {
  const inStep = inStepOf(merging);
  const sides = {
    device: merging.device.map((held) => ({ ...held, record: inStep(held.record) })),
    partner: merging.partner.map((held) => ({ ...held, record: inStep(held.record) })),
  };
  const record = (ref: Ref): AnyRecordInStep => {
    if (!Array.isArray(ref)) return ref.record;
    const [where, at] = ref;
    if (where === 'device' || where === 'partner') return known(sides[where][at]?.record);
    const then = merging.remembered[at]?.base;
    return inStep(known(where === 'device-then' ? then?.device : then?.partner));
  };
  const step = (one: WireStep): Step<AnyRecordInStep> =>
    (one.record === undefined
      ? one
      : { ...one, record: record(one.record) }) as Step<AnyRecordInStep>;
  const line = (one: WireLine): AnyLine => {
    const device = one.device === null ? null : known(sides.device[one.device]);
    const partner = one.partner === null ? null : known(sides.partner[one.partner]);
    const ids = one.ids ?? idsOf({ device, partner });
    return {
      ...{ device, partner, ids, key: one.key ?? lineKey(ids.device, ids.partner) },
      base: one.base && { device: record(one.base.device), partner: record(one.base.partner) },
      ...{ conflict: one.conflict ?? null, isOpen: one.isOpen ?? false },
      untold: one.untold ?? { device: [], partner: [] },
      steps: one.steps
        ? { device: step(one.steps.device), partner: step(one.steps.partner) }
        : { device: { do: 'nothing' }, partner: { do: 'nothing' } },
    };
  };
  const { apart: told, lines, persons } = JSON.parse(text) as WireMerged;
  const apart = told.map(line);
  return { apart, lines: lines ? lines.map(line) : apart, persons };
}

const idsOf = ({ device, partner }: Pick<AnyLine, 'device' | 'partner'>): AnyLine['ids'] => ({
  device: device?.id ?? null,
  partner: partner?.id ?? null,
});

function known<T>(value: T | undefined): T {
  if (value === undefined) throw new Error('the thread that merges speaks of something else');
  return value;
}
