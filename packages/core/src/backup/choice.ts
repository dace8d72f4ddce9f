import { z } from 'zod';
import { dataClassIds, type DataClass } from '../device/index.js';

/**
 * What is chosen out of a device's contents, as few words: a class, a group of it or a single item is
 * in or out, and the most specific word counts. Nothing said is out.
 *
 * Keys: `photographs` (a class), `photographs/2026` (a group), `photographs/2026#id` (an item).
 */
export type Choice = Readonly<Record<string, boolean>>;
export const choiceSchema = z.record(z.string().max(400), z.boolean());

export interface Choosable {
  class: DataClass;
  /** Empty where it belongs to no group. */
  group: string;
  /** The device's own opaque id. */
  id: string;
}

export const classKey = (dataClass: DataClass): string => dataClass;
export const groupKey = (dataClass: DataClass, group: string): string => `${dataClass}/${group}`;
export const itemKey = ({ class: dataClass, group, id }: Choosable): string =>
  `${dataClass}/${group}#${id}`;

export const choiceOfClasses = (classes: Iterable<DataClass>): Choice =>
  Object.fromEntries([...classes].map((c) => [classKey(c), true]));

/** What cannot be downloaded again, and is quickly taken. */
export const quickClasses: readonly DataClass[] = [
  'contacts',
  'calendar',
  'tasks',
  'messages',
  'calls',
  'notes',
  'photographs',
  'voice-notes',
  'documents',
  'health',
  'saved-passwords',
  'alarms',
];

export const planModes = ['everything', 'quick', 'chosen'] as const;
export type PlanMode = (typeof planModes)[number];

/** What a backup was to take. */
export const backupScopeSchema = z.object({
  mode: z.enum(planModes),
  encrypted: z.boolean(),
  /** Whether an erase may rest on it. */
  everything: z.boolean(),
});
export type BackupScope = z.infer<typeof backupScopeSchema>;

/** What a plan of that kind takes. */
export function choiceOf(mode: PlanMode, chosen: Choice): Choice {
  switch (mode) {
    case 'everything':
      return choiceOfClasses(dataClassIds);
    case 'quick':
      return choiceOfClasses(quickClasses);
    case 'chosen':
      return chosen;
  }
}

function groupIsChosen(choice: Choice, dataClass: DataClass, group: string): boolean {
  return choice[groupKey(dataClass, group)] ?? choice[classKey(dataClass)] ?? false;
}

export function isChosen(choice: Choice, item: Choosable): boolean {
  return choice[itemKey(item)] ?? groupIsChosen(choice, item.class, item.group);
}

/** Puts a class, a group or an item in or out, with all that is in it, and keeps no word that says nothing. */
export function choose(choice: Choice, key: string, on: boolean): Choice {
  const [ofClass, rest] = split(key, '/');
  const [group, item] = rest === null ? [null, null] : split(rest, '#');
  const inside = (other: string) =>
    other === key ||
    (item === null && group !== null && other.startsWith(`${key}#`)) ||
    (group === null && other.startsWith(`${key}/`));
  const kept = Object.entries(choice).filter(([other]) => !inside(other));
  const said = new Map(kept);
  const above =
    (item === null ? undefined : said.get(`${ofClass}/${group}`)) ??
    (group === null ? undefined : said.get(ofClass)) ??
    false;
  return Object.fromEntries(above === on ? kept : [...kept, [key, on]]);
}

/** The same for many at once, such as a range of rows; single items cost no more than their number. */
export function chooseMany(choice: Choice, keys: Iterable<string>, on: boolean): Choice {
  let wide = choice;
  const singles: string[] = [];
  for (const key of keys) {
    if (key.includes('#')) singles.push(key);
    else wide = choose(wide, key, on);
  }
  if (singles.length === 0) return wide;
  const next: Record<string, boolean> = { ...wide };
  for (const key of singles) {
    const ofGroup = key.slice(0, key.indexOf('#'));
    const above = next[ofGroup] ?? next[ofGroup.slice(0, ofGroup.indexOf('/'))] ?? false;
    if (above === on) Reflect.deleteProperty(next, key);
    else next[key] = on;
  }
  return next;
}

function split(text: string, at: string): [string, string | null] {
  const place = text.indexOf(at);
  return place < 0 ? [text, null] : [text.slice(0, place), text.slice(place + 1)];
}

export interface Tally {
  items: number;
  bytes: number;
  chosenItems: number;
  chosenBytes: number;
}

/** What is there and what is chosen, for each class and group that has anything. One pass over the items. */
export function tallies(
  items: Iterable<Choosable & { bytes: number }>,
  choice: Choice,
): Map<string, Tally> {
  const found = new Map<string, Tally>();
  const at = (key: string) => {
    let tally = found.get(key);
    if (!tally) found.set(key, (tally = { items: 0, bytes: 0, chosenItems: 0, chosenBytes: 0 }));
    return tally;
  };
  // What is the same for a whole group is found out once, not for each of very many items.
  const groups = new Map<DataClass, Map<string, GroupTally>>();
  const of = (dataClass: DataClass, group: string): GroupTally => {
    let ofClass = groups.get(dataClass);
    if (!ofClass) groups.set(dataClass, (ofClass = new Map<string, GroupTally>()));
    let known = ofClass.get(group);
    if (!known) {
      const key = groupKey(dataClass, group);
      known = {
        tallies: [at(classKey(dataClass)), at(key)],
        chosen: groupIsChosen(choice, dataClass, group),
        hasSingles: Object.keys(choice).some((other) => other.startsWith(`${key}#`)),
      };
      ofClass.set(group, known);
    }
    return known;
  };
  for (const item of items) {
    const { tallies: both, chosen, hasSingles } = of(item.class, item.group);
    const isIn = hasSingles ? (choice[itemKey(item)] ?? chosen) : chosen;
    for (const tally of both) {
      tally.items += 1;
      tally.bytes += item.bytes;
      if (!isIn) continue;
      tally.chosenItems += 1;
      tally.chosenBytes += item.bytes;
    }
  }
  return found;
}

interface GroupTally {
  tallies: readonly [ofClass: Tally, ofGroup: Tally];
  chosen: boolean;
  /** Whether anything is said of single items in it. */
  hasSingles: boolean;
}

/** In, out, or some of it. */
export function triState({ items, chosenItems }: Tally): 'all' | 'none' | 'some' {
  if (chosenItems === 0) return 'none';
  return chosenItems === items ? 'all' : 'some';
}

/** A choice without its single items: what may be remembered, since it names nothing of a customer's. */
export function withoutItems(choice: Choice): Choice {
  return Object.fromEntries(Object.entries(choice).filter(([key]) => !key.includes('#')));
}
