import type { Call } from '../records/call.js';
import type { Contact } from '../records/contact.js';
import type { Message } from '../records/message.js';

/** What contents of a format become. */
export type Records =
  | { kind: 'messages'; messages: Message[] }
  | { kind: 'calls'; calls: Call[] }
  | { kind: 'contacts'; contacts: Contact[] };
export type RecordsKind = Records['kind'];

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
}

/** @throws Error for what is no moment */
export function moment(text: string): Date {
  const at = new Date(text);
  if (Number.isNaN(at.getTime())) throw new Error('not a moment');
  return at;
}

export const utf8 = (contents: Uint8Array): string => new TextDecoder().decode(contents);
export const linesOf = (text: string): string[] =>
  text.split(/\r?\n/).filter((line) => line !== '');

/** The folder that something lies in: its path, and its own name. */
export function folderOf(path: string): { folder: string; name: string } {
  const folder = path.slice(0, path.lastIndexOf('/'));
  return { folder, name: folder.slice(folder.lastIndexOf('/') + 1) };
}
