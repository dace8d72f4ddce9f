import type { ExtractSet } from './choices.js';

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

/** Whether a device's file holds something of a set. */
export function isOfSet(
  set: ExtractSet,
  item: { class: string; group: string; path: string },
): boolean {
  if (set === 'messages') return item.class === 'messages' && /\.(jsonl|txt)$/.test(item.path);
  if (set === 'calls') return item.class === 'calls' && item.path.endsWith('.csv');
  return item.class === 'applications' && item.group === set && item.path.endsWith('.jsonl');
}

/** What one file of a device says. @throws Error when it is not what its name claims */
export function recordsOf(set: ExtractSet, path: string, text: string): Unkeyed[] {
  const lines = text.split(/\r?\n/).filter((line) => line !== '');
  if (set === 'calls') return lines.slice(1).map(call);
  const folder = path.slice(0, path.lastIndexOf('/'));
  const thread = folder.slice(folder.lastIndexOf('/') + 1);
  return path.endsWith('.txt')
    ? lines.map((line) => handsetText(line, thread))
    : lines.map((line) => message(line, folder, thread));
}

function moment(text: string): Date {
  const at = new Date(text);
  if (Number.isNaN(at.getTime())) throw new Error('not a moment');
  return at;
}

function message(line: string, folder: string, thread: string): Unkeyed {
  const said = JSON.parse(line) as {
    at: string;
    from: string;
    text: string;
    attachment?: string | null;
  };
  return {
    thread,
    at: moment(said.at),
    from: said.from,
    to: [],
    text: said.text,
    attachment: said.attachment ? `${folder}/${said.attachment}` : null,
  };
}

/** A handset keeps a text as moment, sender and words, with tabs between. */
function handsetText(line: string, thread: string): Unkeyed {
  const [at = '', from = '', ...words] = line.split('\t');
  return { thread, at: moment(at), from, to: [], text: words.join('\t'), attachment: null };
}

function call(line: string): Unkeyed {
  const [at = '', kind = '', number = '', seconds = ''] = line.split(',');
  return {
    thread: number,
    at: moment(at),
    from: kind === 'outgoing' ? 'me' : number,
    to: kind === 'outgoing' ? [number] : [],
    text: kind === 'missed' ? 'missed call' : `${kind} call, ${seconds} s`,
    attachment: null,
  };
}
