import { callLog } from './call-log.js';
import type { RecordFormat, Records, RecordsKind } from './define.js';
import { shortMessages } from './short-messages.js';
import { thread } from './thread.js';
import { vcard } from './vcard.js';

/** Every format whose records can be read. One line adds one. */
const formats: readonly { [Kind in RecordsKind]: RecordFormat<Kind> }[RecordsKind][] = [
  thread,
  shortMessages,
  callLog,
  vcard,
];

const byMediaType = new Map(formats.map((format) => [format.mediaType, format]));

/** What contents of a media type hold; null where nobody can tell. */
export const kindOf = (mediaType: string | null): RecordsKind | null =>
  byMediaType.get(mediaType ?? '')?.kind ?? null;

/** @throws Error where the media type is none that can be read, or the contents are not what it says */
export function parseRecords(mediaType: string, contents: Uint8Array, path: string): Records {
  const format = byMediaType.get(mediaType);
  if (!format) throw new Error('no such format');
  return format.parse(contents, path);
}

export const mediaTypes = {
  thread: thread.mediaType,
  shortMessages: shortMessages.mediaType,
  callLog: callLog.mediaType,
  vcard: vcard.mediaType,
} as const;
export type { Records, RecordsKind } from './define.js';
