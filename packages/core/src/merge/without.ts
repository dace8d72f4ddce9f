import type { Field } from '../records/fields.js';
import { noContact } from '../records/contact.js';
import { mergeRules, type MergedKind, type MergedRecords, type MergeRules } from './fields.js';

/** What stands in the place of a part that is not kept in step. */
const blank: { readonly [Kind in MergedKind]: Partial<MergedRecords[Kind]> } = {
  contacts: noContact,
  events: { place: '', notes: '', alarms: [] },
  tasks: { notes: '', priority: 0, alarms: [] },
  notes: {},
};

/**
 * A record as far as it is kept in step: without the parts that each side keeps to itself. Nothing is remembered of those, so
 * that one that is kept in step from some day on is asked about where the sides differ.
 */
export function withoutParts<Kind extends MergedKind>(
  kind: Kind,
  record: MergedRecords[Kind],
  parts: readonly Field[],
): MergedRecords[Kind] {
  const { fields } = mergeRules[kind] as unknown as MergeRules<MergedRecords[Kind]>;
  let left = record;
  for (const { field, taken } of fields) {
    if (parts.includes(field)) left = taken(left, { ...record, ...blank[kind] });
  }
  return left;
}
