import { GB, KB, MB } from './units.js';

/** Sizes as printed on drives: decimal units, three significant figures, never more than two decimals. */
export function formatBytes(n: number): string {
  const unit =
    n >= 1e12
      ? ([1e12, 'TB'] as const)
      : n >= GB
        ? ([GB, 'GB'] as const)
        : n >= MB
          ? ([MB, 'MB'] as const)
          : n >= KB
            ? ([KB, 'kB'] as const)
            : null;
  if (!unit) return `${Math.round(n)} B`;
  const value = n / unit[0];
  const decimals = value >= 100 ? 0 : value >= 10 ? 1 : 2;
  // Rounding may carry into the next unit (999.9 MB is 1.00 GB).
  if (Number(value.toFixed(decimals)) >= 1000 && unit[0] < 1e12) return formatBytes(unit[0] * 1000);
  return `${value.toFixed(decimals)} ${unit[1]}`;
}

/** A range of sizes in one unit where both have it: `310–330 MB`, `980 MB–1.10 GB`; one figure when they read the same. */
export function formatBytesRange(low: number, high: number): string {
  const [a, b] = [formatBytes(low), formatBytes(high)];
  if (a === b) return a;
  const [number, unit] = a.split(' ');
  return b.endsWith(` ${unit}`) ? `${number}–${b}` : `${a}–${b}`;
}

/** Bytes a second, as `24.1 MB/s`. */
export function formatRate(bytesPerSecond: number): string {
  return `${formatBytes(bytesPerSecond)}/s`;
}

/** A length of time for a person at a counter: `45 s`, `3 min 20 s`, `2 h 05 min`. */
export function formatDuration(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000));
  if (s < 60) return `${s} s`;
  if (s < 3600) {
    const rest = s % 60;
    return rest && s < 600 ? `${Math.floor(s / 60)} min ${rest} s` : `${Math.round(s / 60)} min`;
  }
  return `${Math.floor(s / 3600)} h ${String(Math.floor((s % 3600) / 60)).padStart(2, '0')} min`;
}

/**
 * An honest range of time, no finer than it deserves: seconds in fives, then halves of a minute, then
 * minutes. Collapsed to one figure when both ends read the same: `20–45 s`, `2–6 min`, `about 5 min`.
 */
export function formatDurationRange(lowMs: number, highMs: number): string {
  const step = highMs < 90_000 ? 5_000 : highMs < 3_600_000 ? 60_000 : 600_000;
  const low = Math.max(step, Math.floor(lowMs / step) * step);
  const high = Math.max(low, Math.ceil(highMs / step) * step);
  const [a, b] = [formatDuration(low), formatDuration(high)];
  if (a === b) return `about ${a}`;
  // The unit stands once where both ends have the same single one.
  const [first, second] = [/^(\d+) (s|min)$/.exec(a), /^(\d+) (s|min)$/.exec(b)];
  return first && second && first[2] === second[2] ? `${first[1]}–${b}` : `${a}–${b}`;
}

/** Whole counts with thin grouping: `3,214`. */
export function formatCount(n: number): string {
  return Math.round(n)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, ',');
}

/** `1 item`, `3,214 items`. */
export function countOf(n: number, one: string, many = `${one}s`): string {
  return `${formatCount(n)} ${n === 1 ? one : many}`;
}
