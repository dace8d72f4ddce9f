import type { Alarm } from './alarm.js';
import type { Call } from './call.js';
import type { Contact } from './contact.js';
import type { CalendarEvent } from './event.js';
import type { HomeScreen } from './home-screen.js';
import type { Measurement } from './measurement.js';
import type { Message } from './message.js';
import type { Note } from './note.js';
import type { Task } from './task.js';
import type { Thread } from './thread.js';
import type { Bookmark, Visit } from './web.js';

/** What contents of a format become. */
export type Records =
  | { kind: 'messages'; messages: Message[] }
  | { kind: 'threads'; threads: Thread[] }
  | { kind: 'calls'; calls: Call[] }
  | { kind: 'contacts'; contacts: Contact[] }
  | { kind: 'events'; events: CalendarEvent[] }
  | { kind: 'tasks'; tasks: Task[] }
  | { kind: 'notes'; notes: Note[] }
  | { kind: 'bookmarks'; bookmarks: Bookmark[] }
  | { kind: 'visits'; visits: Visit[] }
  | { kind: 'alarms'; alarms: Alarm[] }
  | { kind: 'measurements'; measurements: Measurement[] }
  | { kind: 'screens'; screens: HomeScreen[] };
export type RecordsKind = Records['kind'];
