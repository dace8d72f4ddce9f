import { countLosses, isTorn, utf8, type RecordFormat } from './define.js';

/** One note a file, in Markdown (RFC 7763, UTF-8). */
export const markdown: RecordFormat<'notes'> = {
  mediaType: 'text/markdown',
  kind: 'notes',
  parse: (contents) => ({ kind: 'notes', notes: [{ text: utf8(contents) }] }),
  write: ({ notes: [note] }) => new TextEncoder().encode(note?.text ?? ''),
  losses: ({ notes: [note, ...others] }) => ({
    ...countLosses(note ? [note] : [], {
      // A decoder takes a mark of byte order away.
      letters: ({ text }) => isTorn(text) || text.startsWith('\ufeff'),
    }),
    ...countLosses(others, { others: () => true }),
  }),
};

/** One memo of a keyboard handset a file, in ISO 8859-1. */
export const memo: RecordFormat<'notes'> = {
  mediaType: 'text/vnd.bright-cellar.memo',
  kind: 'notes',
  parse: (contents) => ({
    kind: 'notes',
    notes: [{ text: new TextDecoder('latin1').decode(contents) }],
  }),
  write: ({ notes: [note] }) =>
    Uint8Array.from((note?.text ?? '').replaceAll(notLatin, '?'), (letter) => letter.charCodeAt(0)),
  losses: ({ notes: [note, ...others] }) => ({
    ...countLosses(note ? [note] : [], { letters: ({ text }) => text.search(notLatin) >= 0 }),
    ...countLosses(others, { others: () => true }),
  }),
};

/** Not ISO 8859-1, or what browsers read as Windows' own letters in the place of its control characters. */
export const notLatin = /[^\p{ASCII}\u00a0-\u00ff]/gu;
