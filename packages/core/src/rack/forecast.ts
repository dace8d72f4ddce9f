/** A rack's room at the end of a day. */
export interface RoomOfDay {
  /** Days since any fixed one; a day can be missing. */
  day: number;
  /** Bytes. */
  free: number;
}

export interface FullForecast {
  /** Days from the last one known until nothing is left above the reserve, the earlier and the later end of an 80 % range. */
  early: number;
  /** Null: perhaps never, or not within {@link HORIZON_DAYS}. */
  late: number | null;
}

/** Further ahead nobody can see. */
export const HORIZON_DAYS = 730;
/** Fewer days say nothing. */
export const LEAST_DAYS = 7;
/** Older days tell of another shop. */
const LOOK_BACK_DAYS = 120;
/** Of the normal distribution: four of five fall within so many deviations of the mean. */
const DEVIATIONS = 1.2816;

/**
 * When a rack will be full, from its own history: what it lost each day is taken as a random walk with drift, of which mean
 * and spread are estimated; the range is that of what n more days will take, with the mean's own uncertainty in it.
 * @param days oldest first @param reserve bytes that stay free
 * @returns null where too little is known, or where it will not be full within sight
 */
export function whenFull(days: readonly RoomOfDay[], reserve: number): FullForecast | null {
  const last = days.at(-1);
  if (!last) return null;
  const steps = stepsOf(days.filter(({ day }) => day > last.day - LOOK_BACK_DAYS));
  const lived = steps.reduce((sum, { days: n }) => sum + n, 0);
  if (lived < LEAST_DAYS) return null;
  const left = last.free - reserve;
  if (left <= 0) return { early: 0, late: 0 };
  const mean = steps.reduce((sum, { taken }) => sum + taken, 0) / lived;
  // Of a step over several days, each day has its share of what it differs from the mean.
  const variance =
    steps.reduce((sum, { taken, days: n }) => sum + (taken - mean * n) ** 2 / n, 0) /
    Math.max(1, steps.length - 1);
  const takenBy = (n: number, deviations: number) =>
    mean * n + deviations * Math.sqrt(variance * n * (1 + n / lived));
  const early = firstDay((n) => takenBy(n, DEVIATIONS) >= left);
  if (early === null) return null;
  return { early, late: firstDay((n) => takenBy(n, -DEVIATIONS) >= left) };
}

/** What was taken from one known day to the next. */
function stepsOf(days: readonly RoomOfDay[]): { taken: number; days: number }[] {
  return days.slice(1).flatMap((now, i) => {
    const before = days[i];
    return before && now.day > before.day
      ? [{ taken: before.free - now.free, days: now.day - before.day }]
      : [];
  });
}

function firstDay(isFull: (n: number) => boolean): number | null {
  for (let n = 1; n <= HORIZON_DAYS; n++) if (isFull(n)) return n;
  return null;
}
