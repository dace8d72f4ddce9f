const DAY_MS = 86_400_000;
/** The newest of each of so many days, weeks and months: those that have any, the latest first. */
const KEPT = { days: 7, weeks: 8, months: 12 };

/**
 * Which saves of the catalogue are kept: the newest of each of the last seven days, eight weeks and twelve months (UTC, weeks from
 * Monday) of which there is one. The newest is always among them.
 * @param times when they were made, in any order
 */
export function savesKept(times: readonly Date[]): Set<number> {
  const newestFirst = times.map((time) => time.getTime()).sort((a, b) => b - a);
  const kept = new Set<number>();
  for (const [span, most] of [
    [dayOf, KEPT.days],
    [weekOf, KEPT.weeks],
    [monthOf, KEPT.months],
  ] as const) {
    const seen = new Set<number>();
    for (const time of newestFirst) {
      const of = span(time);
      if (seen.has(of)) continue;
      if (seen.size === most) break;
      seen.add(of);
      kept.add(time);
    }
  }
  return kept;
}

const dayOf = (time: number) => Math.floor(time / DAY_MS);
/** The first of January 1970 was a Thursday. */
const weekOf = (time: number) => Math.floor((dayOf(time) + 3) / 7);
function monthOf(time: number): number {
  const date = new Date(time);
  return date.getUTCFullYear() * 12 + date.getUTCMonth();
}

/** A night’s save that is older than this is overdue. */
export const SAVE_OVERDUE_MS = 26 * 3_600_000;
/** In quiet hours it is made anew when the last is so old. */
export const SAVE_AGAIN_MS = 18 * 3_600_000;
