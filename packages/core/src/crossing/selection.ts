import { groupOfPath, type DataClass } from '../device/index.js';
import { isChosen, type Choice } from '../backup/index.js';
import { daysWanted, type DaySpan } from '../values/index.js';
import { kindOf, type RecordsKind } from '../formats/index.js';
import type { Message } from '../records/message.js';
import type { ReadItem } from './convert.js';
import { listOf, momentOf, recordsOf, sameKey, type AnyRecord } from '../records/fields.js';
import type { SourceItem } from './target.js';

/** An item of a backup, with the moment that its device says of it: ISO 8601, UTC. */
type DatedItem = SourceItem & { modified: string };

/** Which part of a backup goes over. */
export interface Selection {
  /** Whether anything in an item may go. */
  hasItem(item: DatedItem): boolean;
  /** Whether a record in such an item does. */
  hasRecord(kind: RecordsKind, record: AnyRecord): boolean;
  /** Not all that is in its items goes: of a conversation only those files come along that came with what does. */
  isNarrow: boolean;
}

/** Classes of which a file is of the day that its device says of it. */
const datedFiles: ReadonlySet<DataClass> = new Set<DataClass>([
  ...(['photographs', 'videos', 'voice-notes', 'documents'] as const),
]);

/**
 * Classes, groups and items; of what was said, called, looked at, measured, taken or written on some day, only some days. What is of
 * no day goes whole.
 * @param zone whose days they are: IANA
 */
export function chosenPart(choice: Choice, days: DaySpan, zone: string): Selection {
  const isOfDays = daysWanted(days, zone);
  const isNarrow = days.since !== null || days.until !== null;
  return {
    isNarrow,
    hasItem({ class: dataClass, path, modified, kind }) {
      if (!isChosen(choice, { class: dataClass, group: groupOfPath(path), id: '' })) return false;
      const isDated = isNarrow && kind === 'file' && datedFiles.has(dataClass);
      return !isDated || isOfDays(Date.parse(modified));
    },
    hasRecord(_, record) {
      const at = isNarrow ? momentOf(record) : null;
      return at === null || isOfDays(at.getTime());
    },
  };
}

/** What somebody took in hand while they read in a backup. All of it is the customer's: it is kept in memory only. */
export interface Picked {
  /** Files as they are. */
  paths: ReadonlySet<string>;
  /** By the group that they are. */
  applications: ReadonlySet<string>;
  /** Of each kind the records, by {@link pickKey}. */
  records: ReadonlyMap<RecordsKind, ReadonlySet<string>>;
  /** Messages that lie in the store of an application, and go with that or not at all. */
  inStores: number;
}

/** By what a record is known that was taken in hand. */
export function pickKey(kind: RecordsKind, record: AnyRecord): string {
  if (kind !== 'messages') return sameKey(kind, record);
  const { at, from, text } = record as Message;
  return messageKey({ at: at.getTime(), isOwn: from === 'me', text });
}
/** @param at ms since 1970 */
export const messageKey = ({ at, isOwn, text }: { at: number; isOwn: boolean; text: string }) =>
  JSON.stringify([at, isOwn, text]);

export function inHand({ paths, applications, records }: Picked): Selection {
  return {
    isNarrow: true,
    hasItem({ class: dataClass, path, format = null }) {
      if (dataClass === 'applications') return applications.has(groupOfPath(path));
      const kind = kindOf(format);
      // Of a conversation that is in hand, whatever came with it lies in the same folder.
      const isOfMessages = dataClass === 'messages' && (records.get('messages')?.size ?? 0) > 0;
      return paths.has(path) || (kind !== null && records.has(kind)) || isOfMessages;
    },
    hasRecord: (kind, record) => records.get(kind)?.has(pickKey(kind, record)) ?? false,
  };
}

/** Of items that were read, the records that go; an item of which only some do is a part from then on. Who is in a conversation goes where anything of it does. */
export function onlySelected<Item extends SourceItem>(
  read: readonly ReadItem<Item>[],
  selection: Selection,
): ReadItem<Item>[] {
  if (!selection.isNarrow) return [...read];
  const kept = read.flatMap((one) => {
    const { kind } = one.records;
    if (kind === 'threads') return [one];
    const all = listOf(one.records);
    const list = all.filter((record) => selection.hasRecord(kind, record));
    if (list.length === all.length && list.length > 0) return [one];
    return list.length === 0
      ? []
      : [{ ...one, records: recordsOf(kind, list), isPart: true as const }];
  });
  const said = new Set(
    kept.flatMap(({ records }) =>
      records.kind === 'messages' ? records.messages.map(({ thread }) => thread) : [],
    ),
  );
  return kept.flatMap((one) => {
    if (one.records.kind !== 'threads') return [one];
    const threads = one.records.threads.filter(({ name }) => said.has(name));
    const isPart = one.isPart === true || threads.length < one.records.threads.length;
    return threads.length === 0 ? [] : [{ ...one, records: { ...one.records, threads }, isPart }];
  });
}

/** Files that came along with what goes, by their paths. */
export const attachedTo = (read: readonly ReadItem[]): string[] =>
  read.flatMap(({ records }) =>
    records.kind === 'messages'
      ? records.messages.flatMap(({ attachment }) => (attachment === null ? [] : [attachment]))
      : [],
  );
