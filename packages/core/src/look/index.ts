/** What is in a backup, as people read it: put together from the records of many files. */
export {
  Conversations,
  monthsOf,
  Searching,
  type Conversation,
  type Hit,
  type Month,
  type Said,
} from './conversations.js';
export { occurrencesOf, type Occurrence } from './calendar.js';
export {
  allThere,
  changes,
  SideComparison,
  sumOfChanges,
  type Change,
  type ChangeCounts,
  type Compared,
  type Difference,
  type Side,
} from './compare.js';
export { seriesOf, type Series } from './series.js';
export { People } from './people.js';
export { folded } from './fold.js';
export { plainNumber } from '../records/contact.js';
export { Findables, type Findable } from './findables.js';
export { Meant } from './meant.js';
export type { Call } from '../records/call.js';
export type { Contact } from '../records/contact.js';
export type { Alarm } from '../records/alarm.js';
export type { CalendarEvent } from '../records/event.js';
export type { HomeScreen } from '../records/home-screen.js';
export type { Measurement } from '../records/measurement.js';
export type { Task } from '../records/task.js';
export { titleOf, type Note } from '../records/note.js';
export type { Bookmark, Visit } from '../records/web.js';
