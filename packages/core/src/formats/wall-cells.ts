import type { WallTime } from '../records/event.js';
import { isZone } from './calendar-entries.js';

const DAY = /^(?:(\d{4})-(\d\d?)-(\d\d?)|(\d\d?)\.(\d\d?)\.(\d{4}))(?:[T ]+(.*))?$/;
const CLOCK = /^(\d\d?):(\d\d)(?::(\d\d))?$/;

/**
 * A time as people write it into a table: `2026-03-28`, `28.3.2026`, with `9:00` behind it or in a cell of its own. Days that begin
 * with neither a year nor have dots are read by no one: which figure is the month, nobody can say.
 * @returns null where it is none; the zone of a whole day is null
 */
export function wallTimeIn(day: string, clock: string, zone: string | null): WallTime | null {
  const found = DAY.exec(day.trim());
  if (!found) return null;
  const [, year, month, date, date2, month2, year2, behind] = found;
  const two = (figures: string | undefined) => (figures ?? '').padStart(2, '0');
  const wall = `${year ?? year2}-${two(month ?? month2)}-${two(date ?? date2)}`;
  if (Number.isNaN(Date.parse(`${wall}T00:00:00Z`))) return null;
  const time = clock.trim() || (behind ?? '').trim();
  if (time === '') return { wall, zone: null };
  const [, hours, minutes, seconds] = CLOCK.exec(time) ?? [];
  if (Number(hours ?? 99) > 23 || Number(minutes) > 59 || Number(seconds ?? 0) > 59) return null;
  return { wall: `${wall}T${two(hours)}:${minutes}:${seconds ?? '00'}`, zone };
}

export const zoneIn = (cell: string): string | null => (isZone(cell) ? cell : null);

export const isWholeDay = ({ wall }: WallTime): boolean => wall.length === 10;

/** As a table tells it: its day, and the time behind it or by itself. */
export function cellsOf({ wall }: WallTime): { day: string; clock: string; both: string } {
  const [day = '', time = ''] = wall.split('T');
  const clock = time.replace(/:00$/, '');
  return { day, clock, both: clock === '' ? day : `${day} ${clock}` };
}

/** The day so many days later. @param day `2026-03-28` */
export const daysLater = (day: string, days: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);

/** Minutes before, as figures in a cell. */
export const minutesIn = (cell: string): number[] =>
  (cell.match(/\d+/g) ?? []).map(Number).filter((minutes) => minutes < 1e6);
