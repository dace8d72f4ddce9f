import { format } from 'date-fns';

/** A date that cannot be misread: `24 Nov 2026, 14:05`. */
export function dateTime(instant: string): string {
  return format(new Date(instant), 'd MMM yyyy, HH:mm');
}

export function day(instant: string): string {
  return format(new Date(instant), 'd MMM yyyy');
}

export function time(instant: string | Date): string {
  return format(new Date(instant), 'HH:mm');
}

/** Of the minutes of a day: `22:00`. */
export const clockTime = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;

/** Minutes after midnight; null when it is no time of day. */
export function minuteOf(text: string): number | null {
  const found = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(text.trim());
  return found ? Number(found[1]) * 60 + Number(found[2]) : null;
}
