import { TZDate } from '@date-fns/tz';
import type { WallTime } from './event.js';

/** When that is: UTC, ms since 1970. @param where one is, for a time that has no zone */
export function instantOf({ wall, zone }: WallTime, where: string): number {
  const [year = 1970, month = 1, day = 1, hour = 0, minute = 0, second = 0] = wall
    .split(/[-T:]/)
    .map(Number);
  return new TZDate(year, month - 1, day, hour, minute, second, zone ?? where).getTime();
}

/** What clocks on the wall show there. @param at UTC, ms since 1970 */
export function wallAt(at: number, zone: string): string {
  const there = new TZDate(at, zone);
  const two = (n: number) => String(n).padStart(2, '0');
  const date = [there.getFullYear(), two(there.getMonth() + 1), two(there.getDate())].join('-');
  return `${date}T${[there.getHours(), there.getMinutes(), there.getSeconds()].map(two).join(':')}`;
}
