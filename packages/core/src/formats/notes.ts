import { utf8, type RecordFormat } from './define.js';
import { latinBytes } from './old-text.js';

/** One note a file, in Markdown (RFC 7763, UTF-8). */
export const markdown: RecordFormat<'notes'> = {
  mediaType: 'text/markdown',
  kind: 'notes',
  parse: (contents) => ({ kind: 'notes', notes: [{ text: utf8(contents) }] }),
  write: ({ notes: [note] }) => new TextEncoder().encode(note?.text ?? ''),
};

/** One memo of a keyboard handset a file, in ISO 8859-1. */
export const memo: RecordFormat<'notes'> = {
  mediaType: 'text/vnd.bright-cellar.memo',
  kind: 'notes',
  parse: (contents) => ({
    kind: 'notes',
    notes: [{ text: new TextDecoder('latin1').decode(contents) }],
  }),
  write: ({ notes: [note] }) => latinBytes(note?.text ?? ''),
};
