import type { Measurement } from '../records/measurement.js';

/** What was measured of one thing, day by day. */
export interface Series {
  what: string;
  unit: string;
  measurements: number;
  days: { day: string; low: number; high: number; mean: number; sum: number; count: number }[];
}

/** Measurements as series, by what was measured; days are UTC. */
export function seriesOf(measurements: readonly Measurement[]): Series[] {
  const series = new Map<string, Series>();
  const sorted = [...measurements].sort((a, b) => a.at.getTime() - b.at.getTime());
  for (const { at, what, value, unit } of sorted) {
    const key = `${what}\n${unit}`;
    const one = series.get(key) ?? { what, unit, measurements: 0, days: [] };
    series.set(key, one);
    one.measurements += 1;
    const day = at.toISOString().slice(0, 10);
    const last = one.days.at(-1);
    if (last?.day !== day) {
      one.days.push({ day, low: value, high: value, mean: value, sum: value, count: 1 });
      continue;
    }
    last.low = Math.min(last.low, value);
    last.high = Math.max(last.high, value);
    last.sum += value;
    last.count += 1;
    last.mean = last.sum / last.count;
  }
  return [...series.values()].sort((a, b) => (a.what < b.what ? -1 : 1));
}
