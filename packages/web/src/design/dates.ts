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
