import quotedPrintable from 'quoted-printable';
import type { Records, RecordsKind } from '../records/records.js';

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
  /**
   * Contents that become the same records again, as far as the format can hold them: what it cannot is found out by reading
   * them (`records/compare`).
   */
  write(records: Extract<Records, { kind: Kind }>, path: string): Uint8Array;
}

/** @throws Error for what is no moment */
export function moment(text: string): Date {
  const at = new Date(text);
  if (Number.isNaN(at.getTime())) throw new Error('not a moment');
  return at;
}

export const utf8 = (contents: Uint8Array): string => new TextDecoder().decode(contents);

/** Text of a time before UTF-8 was everywhere: what is none is taken for ISO 8859-1. */
export function oldText(contents: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(contents);
  } catch {
    return new TextDecoder('latin1').decode(contents);
  }
}

/** Quoted-printable (RFC 2045), of the encoding that is named: UTF-8, or else ISO 8859-1; lines end with LF. */
export function unquoted(text: string, charset: string | undefined): string {
  const bytes = Uint8Array.from(quotedPrintable.decode(text), (c) => c.charCodeAt(0));
  const decoder = new TextDecoder(charset?.toLowerCase() === 'utf-8' ? 'utf-8' : 'latin1');
  return decoder.decode(bytes).replaceAll(/\r\n?/g, '\n');
}

export const linesOf = (text: string): string[] =>
  text.split(/\r?\n/).filter((line) => line !== '');

/** The folder that something lies in: its path, and its own name. */
export function folderOf(path: string): { folder: string; name: string } {
  const folder = path.slice(0, path.lastIndexOf('/'));
  return { folder, name: folder.slice(folder.lastIndexOf('/') + 1) };
}
