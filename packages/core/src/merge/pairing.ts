import type { Contact } from '../records/contact.js';
import { allSaid, mergeRules, type MergedKind, type MergedRecords } from './fields.js';
import { certainPairs } from './same-person.js';

/**
 * Which of two lists stand for the same thing, where nothing is remembered: what says the same, has its mark in common, or is
 * certainly the same person. Each is in one pair at most.
 * @returns places in both lists
 */
export function pairedAnew<Kind extends MergedKind>(
  kind: Kind,
  device: readonly MergedRecords[Kind][],
  partner: readonly MergedRecords[Kind][],
): [device: number, partner: number][] {
  const rules = mergeRules[kind];
  const pairs: [number, number][] = [];
  const taken = { device: new Set<number>(), partner: new Set<number>() };
  const pair = (one: number, other: number) => {
    if (taken.device.has(one) || taken.partner.has(other)) return;
    taken.device.add(one);
    taken.partner.add(other);
    pairs.push([one, other]);
  };
  for (const keyOf of [
    (record: MergedRecords[Kind]) => rules.identityOf(record),
    (record: MergedRecords[Kind]) => allSaid(rules, record),
  ]) {
    const waiting = new Map<string, number[]>();
    for (const [at, record] of partner.entries()) {
      const key = taken.partner.has(at) ? null : keyOf(record);
      if (key === null) continue;
      const those = waiting.get(key);
      if (those) those.push(at);
      else waiting.set(key, [at]);
    }
    for (const [at, record] of device.entries()) {
      const key = taken.device.has(at) ? null : keyOf(record);
      const other = key === null ? undefined : waiting.get(key)?.shift();
      if (other !== undefined) pair(at, other);
    }
  }
  if (kind !== 'contacts') return pairs;
  const left = (all: readonly MergedRecords[Kind][], done: ReadonlySet<number>) =>
    [...all.entries()].flatMap(([at, record]) =>
      done.has(at) ? [] : [{ at, contact: record as Contact }],
    );
  const [ofDevice, ofPartner] = [left(device, taken.device), left(partner, taken.partner)];
  const found = certainPairs(
    ofDevice.map(({ contact }) => contact),
    ofPartner.map(({ contact }) => contact),
  );
  for (const [one, other] of found) pair(ofDevice[one]?.at ?? -1, ofPartner[other]?.at ?? -1);
  return pairs;
}
