const DAY_MS = 86_400_000;
/** The newest of each of so many days, weeks, months and versions: those that have any, the latest first. */
const KEPT = { days: 7, weeks: 8, months: 12, versions: 3 };

export interface SaveMade {
  /** When, ms since 1970, UTC. */
  at: number;
  /** How many of the program’s steps its tables have: another number is another version. */
  migrations: number;
}

/**
 * Which saves of the catalogue are kept: the newest of each of the last seven days, eight weeks and twelve months (UTC, weeks from
 * Monday) of which there is one, and of each of the last three versions: what was there before an upgrade is not let go for
 * what the upgrade made on the same day. The newest is always among them.
 * @param saves in any order
 */
export function savesKept<Save extends SaveMade>(saves: readonly Save[]): Set<Save> {
  const newestFirst = [...saves].sort((a, b) => b.at - a.at);
  const kept = new Set<Save>();
  for (const [span, most] of [
    [({ at }: SaveMade) => dayOf(at), KEPT.days],
    [({ at }: SaveMade) => weekOf(at), KEPT.weeks],
    [({ at }: SaveMade) => monthOf(at), KEPT.months],
    [({ migrations }: SaveMade) => migrations, KEPT.versions],
  ] as const) {
    const seen = new Set<number>();
    for (const save of newestFirst) {
      const of = span(save);
      if (seen.has(of)) continue;
      if (seen.size === most) break;
      seen.add(of);
      kept.add(save);
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
