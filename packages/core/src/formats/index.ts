import { callLog } from './call-log.js';
import type { Records, RecordsKind } from '../records/records.js';
import type { RecordFormat } from './define.js';
import { health } from './health.js';
import { icalendar } from './icalendar.js';
import { journal } from './journal.js';
import { markdown, memo } from './notes.js';
import { oldCalendar } from './old-calendar.js';
import { oldTaskList } from './old-task-list.js';
import { oldVcard } from './old-vcard.js';
import { shortMessages } from './short-messages.js';
import { alarms, bookmarks, homeScreen, visits } from './small-json.js';
import { taskList } from './task-list.js';
import { thread } from './thread.js';
import { threadPeople } from './thread-people.js';
import { directoryCard, vcard } from './vcard.js';

/** Every format whose records can be read. One line adds one. */
const formats: readonly { [Kind in RecordsKind]: RecordFormat<Kind> }[RecordsKind][] = [
  thread,
  threadPeople,
  shortMessages,
  callLog,
  vcard,
  directoryCard,
  oldVcard,
  icalendar,
  oldCalendar,
  taskList,
  oldTaskList,
  markdown,
  memo,
  journal,
  bookmarks,
  visits,
  alarms,
  health,
  homeScreen,
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

function formatOf<Kind extends RecordsKind>(mediaType: string, kind: Kind): RecordFormat<Kind> {
  const format = byMediaType.get(mediaType);
  if (format?.kind !== kind) throw new Error('no such format');
  return format as unknown as RecordFormat<Kind>;
}

/** Records as contents of a media type. @throws Error where that holds none of their kind */
export const writeRecords = (mediaType: string, records: Records, path: string): Uint8Array =>
  formatOf(mediaType, records.kind).write(records, path);

export const mediaTypes = {
  thread: thread.mediaType,
  threadPeople: threadPeople.mediaType,
  shortMessages: shortMessages.mediaType,
  callLog: callLog.mediaType,
  vcard: vcard.mediaType,
  directoryCard: directoryCard.mediaType,
  oldVcard: oldVcard.mediaType,
  icalendar: icalendar.mediaType,
  oldCalendar: oldCalendar.mediaType,
  taskList: taskList.mediaType,
  oldTaskList: oldTaskList.mediaType,
  markdown: markdown.mediaType,
  memo: memo.mediaType,
  journal: journal.mediaType,
  bookmarks: bookmarks.mediaType,
  visits: visits.mediaType,
  alarms: alarms.mediaType,
  health: health.mediaType,
  homeScreen: homeScreen.mediaType,
} as const;
export { contentLines, contentText, type ContentLine } from './content-lines.js';
export { oldText } from './define.js';
export { ContactsTable } from './contacts-table.js';
export { EventsTable } from './events-table.js';
export { TasksTable } from './tasks-table.js';
export { tableText, type RecordsTable } from './record-table.js';
export { patchedRecords, type RecordChange } from './patch.js';
export { writeCards } from './vcard.js';
export type { Records, RecordsKind } from '../records/records.js';
