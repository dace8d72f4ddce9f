import { type DataClass, shortened, filled, isPlaced, type Taking } from '../device/index.js';
import {
  mediaTypes,
  parseRecords,
  writeRecords,
  type Records,
  type RecordsKind,
} from '../formats/index.js';
import type { CalendarEvent } from '../records/event.js';
import type { Message } from '../records/message.js';
import { apartOf } from '../records/occurrence.js';
import type { Thread } from '../records/thread.js';
import {
  changedFields,
  exampleOf,
  listOf,
  momentOf,
  recordsOf,
  type AnyRecord,
  type Example,
  type Field,
} from '../records/fields.js';
import type { CrossingTally } from './report.js';
import { threadOf, type CrossingTarget, type SourceItem } from './target.js';

/** An item of a backup that was read. */
export interface ReadItem<Item extends SourceItem = SourceItem> {
  item: Item;
  records: Records;
  /** How the device takes its records; null where they only say who is in a conversation. */
  taking: Taking | null;
  /** There is more in the item than these records. */
  isPart?: boolean;
}

/** A file of records that goes onto a device. */
export interface Outgoing<Item extends SourceItem = SourceItem> {
  class: DataClass;
  path: string;
  format: string;
  /** The item of the backup whose bytes it is; or what it became. */
  contents: Item | Uint8Array;
  /** UTC. */
  modified: Date | null;
  kind: RecordsKind;
  /** What is to arrive, as it was; in the order of the file. */
  meant: AnyRecord[];
  /** How many those are. */
  count: number;
  /** Of those that do not arrive as they were, in which fields. */
  changed: Field[][];
  /** The first of those: as they were, and as they will be. */
  examples: Example[];
  /** So many of them lie beside another version. */
  beside: number;
}

/** Of each file so many records are shown. */
const EXAMPLES = 3;

/** Counts what arrives with a file. Who is in a conversation is said of its messages, and counts for none. */
export function tallyOf(
  { kind, class: of, count, changed, beside }: Outgoing,
  tally: CrossingTally,
) {
  if (kind === 'threads') return;
  tally.goes(of, [], count - changed.length);
  for (const fields of changed) tally.goes(of, fields);
  tally.add(of, 'beside', beside);
}

/**
 * What becomes of items that belong together: all of a class, or of a folder of messages. What the device has already does not go
 * again; an item goes as it is where all of it goes and the device keeps such things just so; all other records are written anew.
 */
export function crossRecords<Item extends SourceItem>(
  read: readonly ReadItem<Item>[],
  target: CrossingTarget,
  tally: CrossingTally,
): Outgoing<Item>[] {
  const threads = conversationsOf(read);
  const instead = occurrencesOf(read);
  const outgoing: Outgoing<Item>[] = [];
  const versions = (kind: RecordsKind, all: readonly AnyRecord[]) =>
    all.filter((record) => target.hasVersionOf(kind, record)).length;
  const pools: Pools = new Map();
  for (const { item, records, taking, isPart = false } of read) {
    if (taking === null) continue;
    const { kind } = records;
    const all = listOf(records).map((record) =>
      kind === 'events'
        ? eventThere(record as CalendarEvent, taking, instead)
        : there(record, kind, taking, threads, target),
    );
    const isSame =
      item.format === taking.format &&
      all.every((record) => shortened(kind, record, taking.letters) === record);
    const fresh = all.filter((record) => {
      // By what the device reads of it, it is known again.
      const arrived = isSame ? record : written([record], kind, taking, item.path).arrived[0];
      const isThere = target.claims(kind, arrived ?? record);
      if (isThere && kind !== 'threads') tally.add(item.class, 'present');
      return !isThere;
    });
    if (fresh.length === 0) continue;
    const path = pathOf(item, all, taking, threads);
    if (isSame && !isPart && fresh.length === all.length && path !== null) {
      outgoing.push({
        ...{ class: item.class, path: target.freePath(path), format: item.format ?? '' },
        ...{
          contents: item,
          modified: null,
          kind,
          meant: fresh,
          count: fresh.length,
          changed: [],
          examples: [],
          beside: versions(kind, fresh),
        },
      });
      continue;
    }
    const pool = pools.get(taking) ?? { class: item.class, kind, records: [] };
    pool.records.push(...fresh);
    pools.set(taking, pool);
  }
  addPeople(read, threads, target, pools);
  for (const [taking, pool] of pools) {
    for (const { path, meant } of places(pool.records, taking, target)) {
      const { contents, arrived } = written(meant, pool.kind, taking, path);
      const compared = meant
        .map((record, i) => ({ record, fields: changedIn(pool.kind, record, arrived[i]), i }))
        .filter(({ fields }) => fields.length > 0);
      const changed = compared.map(({ fields }) => fields);
      const examples = compared
        .slice(0, EXAMPLES)
        .map(({ record, fields, i }) => exampleOf(pool.kind, fields, record, arrived[i]));
      const last = meant.map(momentOf).findLast((at) => at !== null) ?? null;
      outgoing.push({
        ...{ class: pool.class, path, format: taking.format ?? '', contents, modified: last },
        ...{
          kind: pool.kind,
          meant,
          count: meant.length,
          changed,
          examples,
          beside: versions(pool.kind, meant),
        },
      });
    }
  }
  return outgoing;
}

type Pools = Map<Taking, { class: DataClass; kind: RecordsKind; records: AnyRecord[] }>;

/** A device that wants to be told who is in a conversation is told so of those of which only the messages said it. */
function addPeople(
  read: readonly ReadItem[],
  threads: ReadonlyMap<string, Thread>,
  target: CrossingTarget,
  pools: Pools,
): void {
  const taking = target.takingOfKind('messages', 'threads');
  const isMessages = read.some(
    ({ item, records }) => item.class === 'messages' && records.kind === 'messages',
  );
  if (!taking || !isMessages) return;
  const told = new Set(
    read.flatMap(({ records }) =>
      records.kind === 'threads' ? records.threads.map(({ name }) => name) : [],
    ),
  );
  const records = [...threads.values()]
    .filter(({ name }) => !told.has(name))
    .map((thread) => ({ ...thread, name: target.folderOf(thread) }))
    .filter((thread) => !target.claims('threads', thread));
  if (records.length > 0) pools.set(taking, { class: 'messages', kind: 'threads', records });
}

/** In which fields what a device reads differs from what was meant; what it does not read at all differs in all of it. */
const changedIn = (kind: RecordsKind, meant: AnyRecord, arrived: AnyRecord | undefined): Field[] =>
  arrived ? changedFields(kind, meant, arrived) : ['rest'];

/** Every conversation of these items, by its name. */
function conversationsOf(read: readonly ReadItem[]): Map<string, Thread> {
  const said = new Map<string, Message[]>();
  const threads = new Map<string, Thread>();
  for (const { records } of read) {
    if (records.kind === 'threads') for (const one of records.threads) threads.set(one.name, one);
    if (records.kind !== 'messages') continue;
    for (const message of records.messages) {
      const messages = said.get(message.thread) ?? [];
      messages.push(message);
      said.set(message.thread, messages);
    }
  }
  for (const [name, messages] of said) {
    if (!threads.has(name)) threads.set(name, threadOf(name, messages));
  }
  return threads;
}

/** Which occurrences of what recurs have another in their place, by what recurs. */
function occurrencesOf(read: readonly ReadItem[]): Map<string, string[]> {
  const instead = new Map<string, string[]>();
  for (const { records } of read) {
    if (records.kind !== 'events') continue;
    for (const event of records.events) {
      if (event.instead === null) continue;
      instead.set(event.uid, [...(instead.get(event.uid) ?? []), event.instead]);
    }
  }
  return instead;
}

function eventThere(
  event: CalendarEvent,
  { format }: Taking,
  instead: ReadonlyMap<string, string[]>,
): CalendarEvent {
  return format === mediaTypes.oldCalendar ? apartOf(event, instead.get(event.uid) ?? []) : event;
}

/** A record as it is called where it goes: a message is in the conversation of the same people, and what came along lies with it. */
function there(
  record: AnyRecord,
  kind: RecordsKind,
  taking: Taking,
  threads: ReadonlyMap<string, Thread>,
  target: CrossingTarget,
): AnyRecord {
  if (kind === 'threads') {
    const thread = record as Thread;
    return { ...thread, name: target.folderOf(thread) };
  }
  if (kind !== 'messages') return record;
  const message = record as Message;
  const thread = threads.get(message.thread);
  if (!thread) return record;
  if (!taking.place.includes('{conversation}')) {
    return { ...message, thread: thread.members.join(',') || message.thread };
  }
  const folder = target.folderOf(thread);
  const attachment = message.attachment && movedTo(message.attachment, folder);
  return { ...message, thread: folder, attachment };
}

/** A path in the folder of a conversation, in that of another: its second part. */
export const movedTo = (path: string, folder: string): string =>
  path.replace(/^([^/]*\/)[^/]*(?=\/)/, (_, first: string) => first + folder);

/** Where an item may lie as it is; null where the device keeps such things elsewhere. */
function pathOf(
  item: SourceItem,
  all: readonly AnyRecord[],
  { place }: Taking,
  threads: ReadonlyMap<string, Thread>,
): string | null {
  if (!isPlaced(place, item.path)) return null;
  const [first] = all;
  if (!first || !place.includes('{conversation}')) return item.path;
  const folder = 'thread' in first ? first.thread : 'members' in first ? first.name : null;
  return folder === null || threads.size === 0 ? item.path : movedTo(item.path, folder);
}

/** Records by the file that they go into. */
function places(
  records: readonly AnyRecord[],
  { place }: Taking,
  target: CrossingTarget,
): { path: string; meant: AnyRecord[] }[] {
  if (place.includes('{n}')) {
    return records.map((record) => ({
      path: target.freeNumber(place, (n) => filled(place, { ...partsOf(record), n })),
      meant: [record],
    }));
  }
  const files = new Map<string, AnyRecord[]>();
  for (const record of records) {
    const wanted = filled(place, partsOf(record));
    const file = files.get(wanted);
    if (file) file.push(record);
    else files.set(wanted, [record]);
  }
  return [...files].map(([wanted, meant]) => ({
    path: target.freePath(wanted),
    meant: meant.toSorted((a, b) => (momentOf(a)?.getTime() ?? 0) - (momentOf(b)?.getTime() ?? 0)),
  }));
}

function partsOf(record: AnyRecord): { month: string; conversation: string } {
  const at = momentOf(record);
  const conversation =
    'thread' in record ? record.thread : 'members' in record ? record.name : 'conversation';
  return { month: at?.toISOString().slice(0, 7) ?? '', conversation };
}

/** Records as a file, and what a device reads in it. */
function written(
  records: readonly AnyRecord[],
  kind: RecordsKind,
  { format, letters }: Taking,
  path: string,
): { contents: Uint8Array; arrived: readonly AnyRecord[] } {
  const kept = records.map((record) => shortened(kind, record, letters));
  const contents = writeRecords(format ?? '', recordsOf(kind, kept), path);
  return { contents, arrived: listOf(parseRecords(format ?? '', contents, path)) };
}
