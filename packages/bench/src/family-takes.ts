import type { DataClass, Takes, Taking } from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import { inStore } from './application-store.js';

const records = (
  of: DataClass,
  format: string,
  place: string,
  letters: Taking['letters'] = {},
): Taking => ({
  ...{ class: of, format, place, shows: [], letters },
});
/** Plain files, where they lay. @param shows their media types; none: any */
const files = (of: DataClass, ...shows: string[]): Taking => ({
  ...{ class: of, format: null, place: '{path}', shows, letters: {} },
});

const PICTURES = ['image/jpeg', 'image/png', 'image/gif', 'image/webp'];
const SOUNDS = ['audio/wav', 'audio/x-wav', 'audio/mpeg', 'audio/ogg', 'audio/mp4'];

/** What both families of phones keep, in the same way. */
const phone: Taking[] = [
  records('contacts', mediaTypes.vcard, 'contacts/{n}.vcf'),
  records('calendar', mediaTypes.icalendar, 'calendar/{n}.ics'),
  records('tasks', mediaTypes.taskList, 'tasks/{n}.ics'),
  records('messages', mediaTypes.thread, 'messages/{conversation}/{month}.jsonl'),
  records('messages', mediaTypes.threadPeople, 'messages/{conversation}/thread.json'),
  files('messages'),
  records('calls', mediaTypes.callLog, 'calls/{month}.csv'),
  records('notes', mediaTypes.markdown, 'notes/{n}.md'),
  records('alarms', mediaTypes.alarms, 'alarms/alarms.json'),
  records('web-history', mediaTypes.bookmarks, 'web-history/bookmarks.json'),
  records('web-history', mediaTypes.visits, 'web-history/{month}.json'),
  records('health', mediaTypes.health, 'health/{month}.csv'),
  files('photographs', ...PICTURES),
  files('music', ...SOUNDS),
  files('voice-notes', ...SOUNDS),
  files('documents'),
];

/** Takes all of it at once, while it is empty. It shows no videos but its own kind. */
export const vireoTakes: Takes = {
  adds: false,
  changes: false,
  items: [...phone, files('videos', 'video/mp4')],
  applications: [
    ...inStore(['tansy', 'corbel'], true),
    ...inStore(['crossword', 'bus-times', 'pocket-garden'], false),
  ],
};

export const marlTakes: Takes = {
  adds: true,
  changes: true,
  items: [...phone, files('videos', 'video/webm', 'video/mp4')],
  applications: [
    ...inStore(['tansy', 'corbel', 'crossword'], true),
    ...inStore(['pocket-garden', 'bus-times'], false),
  ],
};

/** Record by record, in the old formats of a handset; no pictures, no applications. */
export const quillonTakes: Takes = {
  adds: true,
  changes: true,
  items: [
    records('contacts', mediaTypes.oldVcard, 'contacts/NamesDB/{n}.vcf', {
      ...{ name: 32, organisation: 32, note: 160 },
    }),
    records('calendar', mediaTypes.oldCalendar, 'calendar/DatesDB/{n}.vcs', {
      ...{ name: 64, place: 48, note: 240 },
    }),
    records('tasks', mediaTypes.oldTaskList, 'tasks/TodosDB/{n}.vcs', { name: 64, note: 240 }),
    records('messages', mediaTypes.shortMessages, 'messages/TextsDB/{n}.txt'),
    records('calls', mediaTypes.callLog, 'calls/CallsDB/{month}.csv'),
    records('notes', mediaTypes.memo, 'notes/MemosDB/{n}.txt'),
  ],
  applications: [],
};
