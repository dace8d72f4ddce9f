import { kindOf, type Records } from '../formats/index.js';
import { plainNumber } from '../records/contact.js';
import { applicationOf, type ExtractSet } from './choices.js';

/** Whoever the device belongs to, as records call them. */
export const OWNER = 'me';

/** One message or call. All of it is the customer's. */
export interface ExtractRecord {
  /** The same for the same message, so that a file can be added to without doubling. */
  key: string;
  thread: string;
  /** UTC. */
  at: Date;
  /** A number; `me` for the device's owner. */
  from: string;
  /** Numbers; empty where the device does not say. */
  to: string[];
  /** What was written; for a call its kind and length. */
  text: string;
  /** A path on the device; null for none. */
  attachment: string | null;
}

type Unkeyed = Omit<ExtractRecord, 'key'>;

/** FNV-1a (32 bit), over UTF-16 units: tells texts of one moment apart. */
function fingerprint(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) {
    hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193) >>> 0;
  }
  return hash.toString(16).padStart(8, '0');
}

/** Gives each record its key. What is said twice in the same moment gets two. */
export function keyed(records: Iterable<Unkeyed>): ExtractRecord[] {
  const seen = new Map<string, number>();
  return [...records].map((record) => {
    const { thread, at, from, text } = record;
    const plain = `${at.getTime().toString(36)}-${fingerprint(`${thread}\n${from}\n${text}`)}`;
    const count = (seen.get(plain) ?? 0) + 1;
    seen.set(plain, count);
    return { ...record, key: count === 1 ? plain : `${plain}-${count}` };
  });
}

/**
 * Where a record's picture lies, below the folder beside the file: its thread and its name, since two threads may
 * both hold a “1.jpg”. Null for none, and for a path that would lead out of the folder.
 */
export function mediaPath({ attachment }: Pick<ExtractRecord, 'attachment'>): string | null {
  const parts = attachment?.split('/').slice(-2) ?? [];
  return parts.length === 2 && parts.every((part) => !/^\.{0,2}$|[\\\0]/.test(part))
    ? parts.join('/')
    : null;
}

/** What a device's entry is, as far as a set asks. */
interface Item {
  class: string;
  group: string;
  /** Its media type; null where the device does not say. */
  format: string | null;
}

/** Whether an entry of a device holds something of a set. */
export function isOfSet(set: ExtractSet, item: Item): boolean {
  const kind = kindOf(item.format);
  if (set === 'calls') return item.class === 'calls' && kind === 'calls';
  const application = applicationOf(set);
  return (
    (kind === 'messages' || kind === 'threads') &&
    (application === null
      ? item.class === 'messages'
      : item.class === 'applications' && item.group === application)
  );
}

/** What records of a device become in an open file. */
export function extractOf(records: Records): Unkeyed[] {
  switch (records.kind) {
    case 'messages':
      return records.messages.map((message) => ({ ...message, to: [] }));
    case 'calls':
      return records.calls.map(({ at, kind, number, seconds }) => ({
        thread: number,
        at,
        from: kind === 'outgoing' ? OWNER : number,
        to: kind === 'outgoing' ? [number] : [OWNER],
        text: kind === 'missed' ? 'missed call' : `${kind} call, ${seconds} s`,
        attachment: null,
      }));
    // Of what else there is nobody asked for an open file by itself.
    default:
      return [];
  }
}

/** Whose each number is. */
export const namesIn = (records: Records): [number: string, name: string][] =>
  records.kind === 'contacts'
    ? records.contacts.flatMap(({ name, numbers }) =>
        name === '' ? [] : numbers.map((number): [string, string] => [plainNumber(number), name]),
      )
    : [];
