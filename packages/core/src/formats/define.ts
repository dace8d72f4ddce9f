import type { Call } from '../records/call.js';
import type { Contact } from '../records/contact.js';
import type { Message } from '../records/message.js';
import type { Thread } from '../records/thread.js';

/** What contents of a format become. */
export type Records =
  | { kind: 'messages'; messages: Message[] }
  | { kind: 'threads'; threads: Thread[] }
  | { kind: 'calls'; calls: Call[] }
  | { kind: 'contacts'; contacts: Contact[] };
export type RecordsKind = Records['kind'];

/** What a format cannot hold of some records, by what it is; counted. */
export const lossNames = {
  attachment: 'Attachments',
  conversation: 'Which conversation it belongs to',
  letters: 'Letters that it does not know',
  'line-breaks': 'Line breaks',
} as const;
export type Loss = keyof typeof lossNames;
export type Losses = Partial<Record<Loss, number>>;

/** A format that devices keep records in: docs/record-formats.md. */
export interface RecordFormat<Kind extends RecordsKind = RecordsKind> {
  /** IANA's, or our own (`vnd.bright-cellar.…`). */
  mediaType: string;
  /** What it holds. */
  kind: Kind;
  /**
   * @param path where it lies on the device: some formats leave to their folder whose they are
   * @throws Error when it is not what its media type says
   */
  parse(contents: Uint8Array, path: string): Extract<Records, { kind: Kind }>;
  /** Contents that become the same records again, but for what {@link RecordFormat.losses} says. */
  write(records: Extract<Records, { kind: Kind }>, path: string): Uint8Array;
  /** What of some records the format cannot hold; nothing where it holds all of it. */
  losses(records: Extract<Records, { kind: Kind }>, path: string): Losses;
}

/** @throws Error for what is no moment */
export function moment(text: string): Date {
  const at = new Date(text);
  if (Number.isNaN(at.getTime())) throw new Error('not a moment');
  return at;
}

export const utf8 = (contents: Uint8Array): string => new TextDecoder().decode(contents);
/** How many there are of each loss; those that there are none of are left out. */
export function countLosses<T>(
  all: readonly T[],
  of: Partial<Record<Loss, (one: T) => boolean>>,
): Losses {
  const losses: Losses = {};
  for (const [loss, is] of Object.entries(of) as [Loss, (one: T) => boolean][]) {
    const count = all.filter(is).length;
    if (count > 0) losses[loss] = count;
  }
  return losses;
}

/** Whether half of a letter is in it, which no UTF-8 can hold. */
export const isTorn = (text: string): boolean => /\p{Surrogate}/u.test(text);
export const linesOf = (text: string): string[] =>
  text.split(/\r?\n/).filter((line) => line !== '');

/** The folder that something lies in: its path, and its own name. */
export function folderOf(path: string): { folder: string; name: string } {
  const folder = path.slice(0, path.lastIndexOf('/'));
  return { folder, name: folder.slice(folder.lastIndexOf('/') + 1) };
}
