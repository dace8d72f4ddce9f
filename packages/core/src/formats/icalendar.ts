import ICAL from 'ical.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import { instantOf, wallAt } from '../records/wall-time.js';
import {
  addAlarms,
  addRule,
  addTime,
  addWords,
  alarmsOf,
  calendarOf,
  entriesOf,
  newEntry,
  ruleOf,
  timeOf,
  timesOf,
  wordsOf,
  type Entry,
} from './calendar-entries.js';
import type { RecordFormat } from './define.js';

/** What happens, in a calendar (RFC 5545, VEVENT). */
export const icalendar: RecordFormat<'events'> = {
  mediaType: 'text/calendar',
  kind: 'events',
  parse: (contents) => ({ kind: 'events', events: entriesOf(contents, 'vevent').map(eventOf) }),
  write: ({ events }) =>
    calendarOf(
      events.map(written),
      events.flatMap(({ start, end }) => [start, end]),
    ),
};

function eventOf(entry: Entry): CalendarEvent {
  const [start] = timesOf(entry, 'dtstart');
  if (!start) throw new Error('an event without a start');
  const length = entry.component.getFirstPropertyValue('duration');
  const [given] = timesOf(entry, 'dtend');
  const [instead] = timesOf(entry, 'recurrence-id');
  return {
    uid: wordsOf(entry, 'uid'),
    title: wordsOf(entry, 'summary'),
    place: wordsOf(entry, 'location'),
    notes: wordsOf(entry, 'description'),
    start,
    end: given ?? (length instanceof ICAL.Duration ? after(start, length) : null),
    rule: ruleOf(entry),
    also: timesOf(entry, 'rdate').map((time) => wallIn(start, time)),
    without: timesOf(entry, 'exdate').map((time) => wallIn(start, time)),
    instead: instead ? wallIn(start, instead) : null,
    alarms: alarmsOf(entry, 'dtstart'),
  };
}

/** As clocks show it where the event begins: calendars tell exceptions in UTC, too. */
const wallIn = ({ zone }: WallTime, time: WallTime): string =>
  zone === null || time.zone === null || time.zone === zone
    ? time.wall
    : wallAt(instantOf(time, zone), zone);

function after({ wall, zone }: WallTime, length: ICAL.Duration): WallTime {
  const time = timeOf(wall);
  time.addDuration(length);
  return { wall: time.toString(), zone };
}

function written(event: CalendarEvent): ICAL.Component {
  const component = newEntry('vevent', event.uid);
  const { start, end, also, without, instead } = event;
  addTime(component, 'dtstart', start);
  if (end) addTime(component, 'dtend', end);
  addRule(component, event.rule);
  for (const wall of also) addTime(component, 'rdate', { ...start, wall });
  for (const wall of without) addTime(component, 'exdate', { ...start, wall });
  if (instead !== null) addTime(component, 'recurrence-id', { ...start, wall: instead });
  addWords(component, 'summary', event.title);
  addWords(component, 'location', event.place);
  addWords(component, 'description', event.notes);
  addAlarms(component, event.alarms, event.title);
  return component;
}
