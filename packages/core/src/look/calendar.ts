import ICAL from 'ical.js';
import type { CalendarEvent, WallTime } from '../records/event.js';
import { instantOf, wallAt } from '../records/wall-time.js';

/** One time at which something of a calendar happens. */
export interface Occurrence {
  event: CalendarEvent;
  /** UTC, ms since 1970; of a whole day its midnight, where the calendar is looked at. */
  at: number;
  /** When it ends; the same for what has no length. */
  until: number;
  isWholeDay: boolean;
}

/** Something that recurs for ever is told this often at most. */
const OCCURRENCES_MOST = 2000;

/**
 * Everything that happens, in the order of time: what recurs as often as it does, without what was taken out, and with what stands
 * in the place of single occurrences. A clock that changes by an hour in between changes nothing of the time on the wall.
 * @param to what recurs is told until then, ms since 1970
 * @param zone where it is looked at: there are whole days, and what has no zone
 */
export function occurrencesOf(
  events: readonly CalendarEvent[],
  to: number,
  zone: string,
): Occurrence[] {
  const replaced = new Set(
    events.flatMap(({ uid, instead }) => (instead === null ? [] : [`${uid}\n${instead}`])),
  );
  const all = events.flatMap((event) => {
    const length = event.end === null ? 0 : lengthOf(event.start, event.end, zone);
    return wallTimesOf(event, to, zone).flatMap((wall) => {
      const isReplaced = event.instead === null && replaced.has(`${event.uid}\n${wall}`);
      if (isReplaced || event.without.includes(wall)) return [];
      const at = instantOf({ ...event.start, wall }, zone);
      return [{ event, at, until: at + length, isWholeDay: !wall.includes('T') }];
    });
  });
  return all.sort((a, b) => a.at - b.at);
}

/** By its rule, and at the times that are told one by one; each once. */
function wallTimesOf(event: CalendarEvent, to: number, zone: string): string[] {
  const { start, instead, also } = event;
  if (instead !== null) return [start.wall];
  const further = also.filter((wall) => instantOf({ ...start, wall }, zone) <= to);
  return [...new Set([...wallTimesByRule(event, to, zone), ...further])];
}

function wallTimesByRule({ start, rule }: CalendarEvent, to: number, zone: string): string[] {
  if (rule === null) return [start.wall];
  const recur = ICAL.Recur.fromString(rule);
  // Where its end is a moment, it is compared as a time on the wall there.
  if (recur.until && start.zone !== null && recur.until.zone === ICAL.Timezone.utcTimezone) {
    recur.until = timeOf(wallAt(recur.until.toJSDate().getTime(), start.zone));
  }
  const walls: string[] = [];
  const times = recur.iterator(timeOf(start.wall));
  while (walls.length < OCCURRENCES_MOST) {
    const next = times.next() as ICAL.Time | undefined;
    if (!next) break;
    const wall = next.toString();
    if (instantOf({ ...start, wall }, zone) > to) break;
    walls.push(wall);
  }
  return walls;
}

const timeOf = (wall: string): ICAL.Time =>
  wall.includes('T') ? ICAL.Time.fromDateTimeString(wall) : ICAL.Time.fromDateString(wall);

const lengthOf = (start: WallTime, end: WallTime, zone: string): number =>
  Math.max(0, instantOf(end, zone) - instantOf(start, zone));
