import { z } from 'zod';

/** What can be taken out of a device by itself, as an open file: a class, or the chats of one application by its id. */
export const extractSetSchema = z.union([
  z.enum(['messages', 'calls']),
  z.templateLiteral(['chats/', z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,80}$/)]),
]);
export type ExtractSet = z.infer<typeof extractSetSchema>;

/** The application whose chats a set is; null where it is none of an application. */
export const applicationOf = (set: ExtractSet): string | null =>
  set === 'messages' || set === 'calls' ? null : set.slice('chats/'.length);

export const chatsOf = (application: string): ExtractSet => `chats/${application}`;

/** @param application its name, where somebody knows it */
export function extractSetName(set: ExtractSet, application?: string): string {
  if (set === 'messages') return 'Messages';
  if (set === 'calls') return 'Call log';
  const id = applicationOf(set) ?? '';
  return `Chats of ${application ?? id.charAt(0).toUpperCase() + id.slice(1).replaceAll('-', ' ')}`;
}

/** Open formats that records are written in. */
export const extractFormats = ['jsonl', 'csv', 'xml', 'html'] as const;
export type ExtractFormat = (typeof extractFormats)[number];
export const extractFormatWords: Record<ExtractFormat, string> = {
  jsonl: 'JSON Lines',
  csv: 'CSV',
  xml: 'XML',
  html: 'HTML',
};
export const extractFormatNames: Record<ExtractFormat, string> = {
  jsonl: 'JSON Lines',
  csv: 'CSV, for a spreadsheet',
  xml: 'XML',
  html: 'A page to read and print (HTML)',
};

export const dateStyles = ['iso', 'words', 'seconds'] as const;
export type DateStyle = (typeof dateStyles)[number];
export const dateStyleNames: Record<DateStyle, string> = {
  iso: '2026-11-25T14:05:00, and the zone',
  words: '25 Nov 2026, 14:05',
  seconds: '1795615500, seconds since 1970',
};
