import ICAL from 'ical.js';
import { tzlib_get_ical_block } from 'timezones-ical-library';
import type { WallTime } from '../records/event.js';
import { oldText, unquoted } from './define.js';
import { newRule } from './old-rule.js';
import { withoutQuoted } from './old-text.js';

/** What entries of a calendar have in common, whatever they are: read and written with the standard library. */

type EntryName = 'vevent' | 'vtodo' | 'vjournal';

/** An entry, and the calendar that it stands in. */
export interface Entry {
  component: ICAL.Component;
  calendar: ICAL.Component;
}

/**
 * The entries of a kind in a calendar of any version (RFC 5545, and versit's vCalendar 1.0 of 1996 with quoted-printable). What is
 * not UTF-8 is taken for ISO 8859-1. @throws Error where it is none
 */
export function entriesOf(contents: Uint8Array, name: EntryName): Entry[] {
  const parsed = ICAL.parse(plainLines(oldText(contents))) as unknown[];
  // One calendar, or several after each other.
  const all = typeof parsed[0] === 'string' ? [parsed] : (parsed as unknown[][]);
  return all.flatMap((one) => {
    const calendar = new ICAL.Component(one as ConstructorParameters<typeof ICAL.Component>[0]);
    if (calendar.name !== 'vcalendar') throw new Error('not a calendar');
    return calendar.getAllSubcomponents(name).map((component) => ({ component, calendar }));
  });
}

/** A calendar with all that is said of the zones in it. @param times of all entries */
export function calendarOf(
  components: readonly ICAL.Component[],
  times: readonly (WallTime | null)[],
): Uint8Array {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Bright Cellar//EN');
  for (const component of components) calendar.addSubcomponent(component);
  const zones = new Set(times.map((time) => time?.zone ?? null));
  const blocks = [...zones].flatMap((zone) => (zone && zone !== 'UTC' ? blockOf(zone) : []));
  // What a zone is stands before what happens in it.
  const text = calendar.toString().replace(/(?<=\r\nPRODID:[^\r]*\r\n)/, blocks.join(''));
  return new TextEncoder().encode(`${text}\r\n`);
}

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

export const wordsOf = ({ component }: Entry, name: string): string =>
  String(component.getFirstPropertyValue(name) ?? '');

/** Times of an entry under a name; of periods their beginnings. */
export const timesOf = ({ component, calendar }: Entry, name: string): WallTime[] =>
  component
    .getAllProperties(name)
    .flatMap((property) =>
      property
        .getValues()
        .map((value) =>
          wallTime(value instanceof ICAL.Period ? value.start : value, property, calendar),
        ),
    );

/** How it recurs; null where it does not. */
export function ruleOf({ component }: Entry): string | null {
  const rule = component.getFirstPropertyValue('rrule');
  return rule === null ? null : String(rule);
}

/** Minutes before it at which an entry wants to be noticed. @param when the name of its time */
export const alarmsOf = ({ component }: Entry, when: 'dtstart' | 'due'): number[] => [
  ...newAlarmsOf(component),
  ...oldAlarmsOf(component, when),
];

const newAlarmsOf = (event: ICAL.Component): number[] =>
  event.getAllSubcomponents('valarm').flatMap((alarm) => {
    const trigger = alarm.getFirstPropertyValue('trigger');
    return trigger instanceof ICAL.Duration ? [0 - trigger.toSeconds() / 60] : [];
  });

/** vCalendar 1.0 says at which time it rings, before what else it says. */
const oldAlarmsOf = (event: ICAL.Component, when: string): number[] =>
  ['dalarm', 'aalarm'].flatMap((name) =>
    event.getAllProperties(name).flatMap((property) => {
      const start = secondsOf(event.getFirstProperty(when));
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
export const timeOf = (wall: string): ICAL.Time =>
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

/** An entry that says what one must (RFC 5545, section 3.6.1). */
export function newEntry(name: EntryName, uid: string): ICAL.Component {
  const component = new ICAL.Component(name);
  addWords(component, 'uid', uid);
  // Nobody knows any more when it was written down.
  component.addPropertyWithValue('dtstamp', ICAL.Time.fromDateTimeString('1970-01-01T00:00:00Z'));
  return component;
}

export function addWords(component: ICAL.Component, name: string, value: string): void {
  if (value !== '') component.addPropertyWithValue(name, oneKindOfLines(value));
}

export function addTime(component: ICAL.Component, name: string, { wall, zone }: WallTime): void {
  const property = new ICAL.Property(name);
  if (!wall.includes('T')) property.resetType('date');
  property.setValue(timeOf(zone === 'UTC' ? `${wall}Z` : wall));
  if (zone !== null && zone !== 'UTC') property.setParameter('tzid', zone);
  component.addProperty(property);
}

export function addRule(component: ICAL.Component, rule: string | null): void {
  if (rule !== null) component.addPropertyWithValue('rrule', ICAL.Recur.fromString(rule));
}

/** @param isFromEnd they are told from when it is due, not from when it begins */
export function addAlarms(
  component: ICAL.Component,
  alarms: readonly number[],
  title: string,
  isFromEnd = false,
): void {
  for (const minutes of alarms) {
    const alarm = new ICAL.Component('valarm');
    alarm.addPropertyWithValue('action', 'DISPLAY');
    alarm.addPropertyWithValue('description', oneKindOfLines(title));
    const trigger = alarm.addPropertyWithValue('trigger', ICAL.Duration.fromSeconds(-minutes * 60));
    if (isFromEnd) trigger.setParameter('related', 'END');
    component.addSubcomponent(alarm);
  }
}
