import type { CalendarEvent } from './event.js';

/**
 * What stands in the place of an occurrence, for devices that have no word for it (vCalendar 1.0): the occurrence is left out of
 * what recurs, and the other is an event of its own, called after both.
 */

const TIME = /^(.+) (\d{4}-\d\d-\d\d(?:T\d\d:\d\d:\d\d)?)$/s;

/** As a device keeps it that has no word for it. @param others wall times of all that have another in their place */
export function apartOf(event: CalendarEvent, others: Iterable<string>): CalendarEvent {
  if (event.instead !== null) return { ...event, uid: `${event.uid} ${event.instead}` };
  const without = [...new Set([...event.without, ...others])];
  return without.length === event.without.length ? event : { ...event, without };
}

/** As everybody else knows what {@link apartOf} made; of all other events, themselves. */
export function togetherOf(event: CalendarEvent): CalendarEvent {
  const [, uid, instead] = TIME.exec(event.uid) ?? [];
  if (uid === undefined || instead === undefined || event.rule !== null || event.instead !== null)
    return event;
  return { ...event, uid, instead };
}

/** What recurs, without those that are left out of it for others only. */
export function withOccurrences(event: CalendarEvent, others: ReadonlySet<string>): CalendarEvent {
  const without = event.without.filter((wall) => !others.has(wall));
  return without.length === event.without.length ? event : { ...event, without };
}
