import ICAL from 'ical.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import { instantOf } from '../records/wall-time.js';
import type { RecordFormat } from './define.js';
import { icalendar } from './icalendar.js';
import { oldRule } from './old-rule.js';
import { oldFile, oldProperty } from './old-text.js';

/**
 * A calendar as keyboard handsets write it: versit's vCalendar 1.0 (1996), in ISO 8859-1. It knows no whole days and no zone but
 * UTC and wherever one is: what recurs keeps its time on the wall, and what happens once its moment.
 */
export const oldCalendar: RecordFormat<'events'> = {
  mediaType: 'text/x-vcalendar',
  kind: 'events',
  parse: (contents, path) => icalendar.parse(contents, path),
  write({ events }) {
    const lines = events.flatMap(linesOfEvent);
    return oldFile(['BEGIN:VCALENDAR', 'VERSION:1.0', ...lines, 'END:VCALENDAR']);
  },
};

function linesOfEvent(event: CalendarEvent): string[] {
  const { start, end, rule, also, without, alarms, title } = event;
  const old = rule === null ? null : oldRule(rule);
  const isOnWall = old !== null || also.length > 0;
  const stamp = (time: WallTime) => stampOf(time, isOnWall);
  const here = (wall: string) => stamp({ ...start, wall });
  return [
    'BEGIN:VEVENT',
    ...words('UID', event.uid),
    `DTSTART:${stamp(start)}`,
    ...(end ? [`DTEND:${stamp(end)}`] : []),
    ...(old === null ? [] : [`RRULE:${old}`]),
    ...also.map((wall) => `RDATE:${here(wall)}`),
    ...without.map((wall) => `EXDATE:${here(wall)}`),
    ...words('SUMMARY', title),
    ...words('LOCATION', event.place),
    ...words('DESCRIPTION', event.notes),
    ...oldAlarms(stamp(start), alarms, title),
    'END:VEVENT',
  ];
}

export const words = (name: string, value: string): string[] =>
  value === '' ? [] : [oldProperty(name, value)];

/** When it rings, how it repeats, how often, and what it shows. @param at what it rings before, as it is written */
export const oldAlarms = (at: string, alarms: readonly number[], title: string): string[] =>
  alarms.map((minutes) => oldProperty('DALARM', before(at, minutes), '', '', title));

/** `20260328T090000`, with a `Z` where it is UTC. @param isOnWall it keeps its time on the wall, whatever its zone */
export function stampOf({ wall, zone }: WallTime, isOnWall: boolean): string {
  const isMoment = zone !== null && (zone === 'UTC' || !isOnWall);
  const time =
    isMoment && zone !== 'UTC'
      ? new Date(instantOf({ wall, zone }, zone)).toISOString().slice(0, 19)
      : wall;
  const whole = time.includes('T') ? time : `${time}T00:00:00`;
  return `${whole.replaceAll(/[-:]/g, '')}${isMoment ? 'Z' : ''}`;
}

function before(stamp: string, minutes: number): string {
  const [, date = '', hours, mins, seconds] = /^(\d{8})T(\d\d)(\d\d)(\d\d)/.exec(stamp) ?? [];
  const day = date.replace(/(\d{4})(\d\d)(\d\d)/, '$1-$2-$3');
  const time = ICAL.Time.fromDateTimeString(`${day}T${hours}:${mins}:${seconds}`);
  time.addDuration(ICAL.Duration.fromSeconds(-minutes * 60));
  return `${time.toICALString()}${stamp.endsWith('Z') ? 'Z' : ''}`;
}
