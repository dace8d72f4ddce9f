import ICAL from 'ical.js';
import { tzlib_get_ical_block } from 'timezones-ical-library';
import type { CalendarEvent, WallTime } from '../records/event.js';
import { instantOf, wallAt } from '../records/wall-time.js';
import { oldText, unquoted, type RecordFormat } from './define.js';
import { newRule } from './old-rule.js';
import { withoutQuoted } from './old-text.js';

/**
 * A calendar of any version (RFC 5545, and versit's vCalendar 1.0 of 1996 with quoted-printable). What is not UTF-8 is taken for
 * ISO 8859-1.
 */
export const icalendar: RecordFormat<'events'> = {
  mediaType: 'text/calendar',
  kind: 'events',
  parse(contents) {
    const text = plainLines(oldText(contents));
    const parsed = ICAL.parse(text) as unknown[];
    // One calendar, or several after each other.
    const all = typeof parsed[0] === 'string' ? [parsed] : (parsed as unknown[][]);
    const events = all.flatMap((one) => {
      const calendar = new ICAL.Component(one as ConstructorParameters<typeof ICAL.Component>[0]);
      if (calendar.name !== 'vcalendar') throw new Error('not a calendar');
      return calendar.getAllSubcomponents('vevent').map((event) => eventOf(event, calendar));
    });
    return { kind: 'events', events };
  },
  write({ events }) {
    const calendar = new ICAL.Component('vcalendar');
    calendar.addPropertyWithValue('version', '2.0');
    calendar.addPropertyWithValue('prodid', '-//Bright Cellar//EN');
    for (const event of events) calendar.addSubcomponent(written(event));
    const zones = new Set(events.flatMap(({ start, end }) => [start.zone, end?.zone ?? null]));
    const blocks = [...zones].flatMap((zone) => (zone && zone !== 'UTC' ? blockOf(zone) : []));
    // What a zone is stands before what happens in it.
    const text = calendar.toString().replace(/(?<=\r\nPRODID:[^\r]*\r\n)/, blocks.join(''));
    return new TextEncoder().encode(`${text}\r\n`);
  },
};

/** Old lines as new ones have them: without quoted-printable, and in one encoding. */
function plainLines(text: string): string {
  const lines = oneKindOfLines(text).replace(/\n*$/, '\n');
  const isOld = /^VERSION:1\.0\s*$/im.test(lines);
  const ruled = isOld
    ? lines.replace(/^RRULE:(.*)$/gim, (_, rule: string) => `RRULE:${newRule(rule)}`)
    : lines;
  return withoutQuoted(ruled, (head, value) => {
    const charset = /;CHARSET=([^;:]+)/i.exec(head)?.[1];
    const name = head.replace(/;(?:ENCODING=[^;:]*|CHARSET=[^;:]*|QUOTED-PRINTABLE)/gi, '');
    const words = unquoted(value, charset);
    return `${name}:${words.replace(/[\\;,]/g, '\\$&').replace(/\n/g, '\\n')}`;
  });
}

function eventOf(event: ICAL.Component, calendar: ICAL.Component): CalendarEvent {
  const words = (name: string) => String(event.getFirstPropertyValue(name) ?? '');
  const times = (name: string) =>
    event
      .getAllProperties(name)
      .flatMap((property) =>
        property
          .getValues()
          .map((value) =>
            wallTime(value instanceof ICAL.Period ? value.start : value, property, calendar),
          ),
      );
  const [start] = times('dtstart');
  if (!start) throw new Error('an event without a start');
  const length = event.getFirstPropertyValue('duration');
  const [given] = times('dtend');
  const rule = event.getFirstPropertyValue('rrule');
  const [instead] = times('recurrence-id');
  return {
    uid: words('uid'),
    title: words('summary'),
    place: words('location'),
    notes: words('description'),
    start,
    end: given ?? (length instanceof ICAL.Duration ? after(start, length) : null),
    rule: rule === null ? null : String(rule),
    also: times('rdate').map((time) => wallIn(start, time)),
    without: times('exdate').map((time) => wallIn(start, time)),
    instead: instead ? wallIn(start, instead) : null,
    alarms: [...alarmsOf(event), ...oldAlarmsOf(event)],
  };
}

const alarmsOf = (event: ICAL.Component): number[] =>
  event.getAllSubcomponents('valarm').flatMap((alarm) => {
    const trigger = alarm.getFirstPropertyValue('trigger');
    return trigger instanceof ICAL.Duration ? [0 - trigger.toSeconds() / 60] : [];
  });

/** vCalendar 1.0 says at which time it rings, before what else it says. */
const oldAlarmsOf = (event: ICAL.Component): number[] =>
  ['dalarm', 'aalarm'].flatMap((name) =>
    event.getAllProperties(name).flatMap((property) => {
      const start = secondsOf(event.getFirstProperty('dtstart'));
      const ringing = secondsOf(property);
      return start === null || ringing === null ? [] : [(start - ringing) / 60];
    }),
  );

/** Of a time as it is written, whatever its zone: for telling two of one file apart. */
function secondsOf(property: ICAL.Property | null): number | null {
  const stamp = String(property?.getFirstValue() ?? '').replaceAll(/[-:\\]/g, '');
  const [, date, time] = /^(\d{8})T(\d{6})/.exec(stamp) ?? [];
  if (date === undefined || time === undefined) return null;
  const at = `${date}${time}`.replace(/(....)(..)(..)(..)(..)(..)/, '$1-$2-$3T$4:$5:$6Z');
  return Date.parse(at) / 1000;
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

function wallTime(value: unknown, property: ICAL.Property, calendar: ICAL.Component): WallTime {
  if (!(value instanceof ICAL.Time)) throw new Error('not a time');
  if (value.isDate) return { wall: value.toString(), zone: null };
  const named = property.getFirstParameter('tzid');
  if (value.zone === ICAL.Timezone.utcTimezone) return { wall: plain(value), zone: 'UTC' };
  if (!named) return { wall: plain(value), zone: null };
  if (isZone(named)) return { wall: plain(value), zone: named };
  // A name of its own: what the calendar says of it tells where it is, or at least when.
  const own = calendar
    .getAllSubcomponents('vtimezone')
    .find((zone) => zone.getFirstPropertyValue('tzid') === named);
  const known = String(own?.getFirstPropertyValue('x-lic-location') ?? '');
  if (isZone(known)) return { wall: plain(value), zone: known };
  if (!own) return { wall: plain(value), zone: null };
  const there = value.clone();
  there.zone = new ICAL.Timezone(own);
  return { wall: plain(there.convertToZone(ICAL.Timezone.utcTimezone)), zone: 'UTC' };
}

/** Of a wall time; a `Z` behind it is UTC. */
const timeOf = (wall: string): ICAL.Time =>
  wall.includes('T') ? ICAL.Time.fromDateTimeString(wall) : ICAL.Time.fromDateString(wall);

const plain = (time: ICAL.Time): string => time.toString().replace(/Z$/, '');

/** Whether the tz database knows it. */
export function isZone(name: string): boolean {
  if (!/^[A-Za-z]/.test(name)) return false;
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** What RFC 5545 wants to be said of a zone; nothing where nobody knows it. */
function blockOf(zone: string): string[] {
  const found = tzlib_get_ical_block(zone);
  return Array.isArray(found) && found[0] ? [`${found[0]}\r\n`] : [];
}

const oneKindOfLines = (text: string): string => text.replace(/\r\n?/g, '\n');

function written(event: CalendarEvent): ICAL.Component {
  const component = new ICAL.Component('vevent');
  const add = (name: string, value: string) => {
    if (value !== '') component.addPropertyWithValue(name, oneKindOfLines(value));
  };
  const at = (name: string, { wall, zone }: WallTime) => {
    const property = new ICAL.Property(name);
    if (!wall.includes('T')) property.resetType('date');
    property.setValue(timeOf(zone === 'UTC' ? `${wall}Z` : wall));
    if (zone !== null && zone !== 'UTC') property.setParameter('tzid', zone);
    component.addProperty(property);
  };
  const { start, end, rule, also, without, instead, alarms } = event;
  add('uid', event.uid);
  // Wanted by RFC 5545, section 3.6.1; nobody knows any more when it was written down.
  component.addPropertyWithValue('dtstamp', ICAL.Time.fromDateTimeString('1970-01-01T00:00:00Z'));
  at('dtstart', start);
  if (end) at('dtend', end);
  if (rule !== null) component.addPropertyWithValue('rrule', ICAL.Recur.fromString(rule));
  for (const wall of also) at('rdate', { ...start, wall });
  for (const wall of without) at('exdate', { ...start, wall });
  if (instead !== null) at('recurrence-id', { ...start, wall: instead });
  add('summary', event.title);
  add('location', event.place);
  add('description', event.notes);
  for (const minutes of alarms) {
    const alarm = new ICAL.Component('valarm');
    alarm.addPropertyWithValue('action', 'DISPLAY');
    alarm.addPropertyWithValue('description', oneKindOfLines(event.title));
    alarm.addPropertyWithValue('trigger', ICAL.Duration.fromSeconds(-minutes * 60));
    component.addSubcomponent(alarm);
  }
  return component;
}
