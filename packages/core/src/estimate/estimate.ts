import { z } from 'zod';
import type { DataClass } from '../device/index.js';
import { byteCountSchema, instantSchema, itemCountSchema } from '../values/index.js';

/** A figure that is not known yet: about an 80 % range, and what it will be most likely. */
export const rangeSchema = z.object({ low: z.number(), likely: z.number(), high: z.number() });
export type Range = z.infer<typeof rangeSchema>;

/** What was expected of a backup before it started. Bytes and ms. */
export const estimateSchema = z.object({
  at: instantSchema,
  items: itemCountSchema,
  bytes: byteCountSchema,
  /** On the rack. */
  stored: rangeSchema,
  ms: rangeSchema,
  /** What the link alone was expected to take. */
  linkMs: z.number(),
});
export type Estimate = z.infer<typeof estimateSchema>;

/** One item that was read and packed to see what becomes of it. */
export interface SampledItem {
  class: DataClass;
  /** Bytes that were read of it: all, or its beginning. */
  bytes: number;
  /** What those take on the rack. */
  storedBytes: number;
  /** How long the link took to give them, ms. */
  ms: number;
}

/** What is about to be read, class by class. */
export interface PlannedClass {
  class: DataClass;
  items: number;
  bytes: number;
  /** Bytes in items that are the same as another one of the device, as far as a sample tells: 0 to 1. */
  duplicateShare: number;
}

/** An earlier run of this shop: what was expected of it, and what it was. */
export interface PastRun {
  likely: number;
  actual: number;
}

/** About an 80 % range of a normal distribution, to each side, in standard deviations. */
const RANGE_SIGMA = 1.2816;
/** A pack's header and its last frame; of more than one pack they do not count beside what is in it. */
const EMPTY_PACK_BYTES = 56;
/** What is not in the sample makes no estimate better than this, relative. */
const LEAST_SPREAD = 0.012;
/** Where nothing of a class was sampled: media are packed already, everything else is mostly text. */
const UNKNOWN_MEDIA = { mean: 0.97, sigma: 0.06 };
const UNKNOWN_TEXT = { mean: 0.4, sigma: 0.25 };
const media: ReadonlySet<DataClass> = new Set<DataClass>(['photographs', 'videos', 'music']);

/**
 * Bytes that a plan will take on the rack, after what is twice is kept once and what can be compressed is.
 *
 * Each class is estimated by the ratio of its sample, whose items were drawn in proportion to their size,
 * so that the mean of their ratios is that of all bytes (probability-proportional-to-size sampling).
 */
export function estimateStored(
  planned: readonly PlannedClass[],
  sample: readonly SampledItem[],
  past: readonly PastRun[] = [],
): Range {
  let likely = planned.some(({ bytes }) => bytes > 0) ? EMPTY_PACK_BYTES : 0;
  let variance = 0;
  for (const { class: dataClass, bytes, duplicateShare } of planned) {
    const ratios = sample
      .filter((s) => s.class === dataClass && s.bytes > 0)
      .map((s) => s.storedBytes / s.bytes);
    const { mean, sigma } =
      ratios.length > 0
        ? meanAndError(ratios)
        : media.has(dataClass)
          ? UNKNOWN_MEDIA
          : UNKNOWN_TEXT;
    const once = bytes * (1 - duplicateShare);
    likely += once * mean;
    variance += (once * sigma) ** 2;
  }
  const spread = Math.max(LEAST_SPREAD, likely > 0 ? Math.sqrt(variance) / likely : 0);
  return calibrated(likely, spread, past);
}

/** Mean, and the standard error of the mean; a sample of one or two knows little of its own error. */
function meanAndError(values: readonly number[]): { mean: number; sigma: number } {
  const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
  if (values.length < 3) return { mean, sigma: 0.12 * Math.max(0.2, mean) };
  const variance = values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / (values.length - 1);
  return { mean, sigma: Math.sqrt(variance / values.length) };
}

/** An earlier run, as far as its time goes. ms. */
export interface PastTime {
  /** What its link alone was expected to take. */
  linkMs: number;
  actual: number;
}

/** What is assumed before there were any runs: so much for opening and making durable, and the link as measured. */
const ASSUMED: readonly PastTime[] = [
  { linkMs: 500, actual: 2_000 },
  { linkMs: 20_000, actual: 21_500 },
];
const SPREAD_UNTRIED = 0.25;

/** What a plan's link would take by itself: so much for each item, and so much for each byte. ms. */
export function linkTime(
  planned: readonly Pick<PlannedClass, 'items' | 'bytes'>[],
  sample: readonly Pick<SampledItem, 'bytes' | 'ms'>[],
): number {
  const items = planned.reduce((sum, p) => sum + p.items, 0);
  const bytes = planned.reduce((sum, p) => sum + p.bytes, 0);
  const { perItem, perByte } = linkModel(sample);
  return items * perItem + bytes * perByte;
}

/**
 * How long a plan will take: what its link takes, and what this shop's runs take beside it. Their line
 * (`actual = start + share × link`) is fitted by least squares of relative errors; the range is as wide as
 * they were off it.
 */
export function estimateTime(linkMs: number, past: readonly PastTime[] = []): Range {
  const runs = past.slice(0, PAST_RUNS).filter((run) => run.actual > 0);
  const { start, share } = timeLine([...runs, ...ASSUMED]);
  const expected = (link: number) => Math.max(1, start + share * link);
  const errors = runs.map((run) => Math.log(run.actual / expected(run.linkMs)));
  return ranged(expected(linkMs), spreadOf(errors, SPREAD_UNTRIED));
}

function timeLine(runs: readonly PastTime[]): { start: number; share: number } {
  let [w, wx, wy, wxx, wxy] = [0, 0, 0, 0, 0];
  for (const { linkMs: x, actual: y } of runs) {
    const weight = 1 / y ** 2;
    w += weight;
    wx += weight * x;
    wy += weight * y;
    wxx += weight * x * x;
    wxy += weight * x * y;
  }
  const determinant = w * wxx - wx * wx;
  const share = determinant > 0 ? (w * wxy - wx * wy) / determinant : 1;
  // A link takes its time: less than none of it counts is noise.
  const kept = Math.max(0.2, share);
  return { start: Math.max(0, (wy - kept * wx) / w), share: kept };
}

/** Least squares of `ms = perItem + perByte × bytes`, never below nothing. */
export function linkModel(sample: readonly Pick<SampledItem, 'bytes' | 'ms'>[]): {
  perItem: number;
  perByte: number;
} {
  const n = sample.length;
  if (n === 0) return { perItem: 5, perByte: 1 / 20_000 };
  const meanBytes = sample.reduce((sum, s) => sum + s.bytes, 0) / n;
  const meanMs = sample.reduce((sum, s) => sum + s.ms, 0) / n;
  let covariance = 0;
  let variance = 0;
  for (const s of sample) {
    covariance += (s.bytes - meanBytes) * (s.ms - meanMs);
    variance += (s.bytes - meanBytes) ** 2;
  }
  const slope = variance > 0 ? covariance / variance : meanBytes > 0 ? meanMs / meanBytes : 0;
  const perByte = Math.max(0, slope);
  return { perItem: Math.max(0, meanMs - perByte * meanBytes), perByte };
}

/**
 * Bytes a second that a link gives, as far as a sample tells; null for an empty one. Where its items are too small to tell
 * their own time from that of their bytes, it is what came in the time that it took.
 */
export function linkRate(sample: readonly Pick<SampledItem, 'bytes' | 'ms'>[]): number | null {
  const { perByte } = linkModel(sample);
  const bytes = sample.reduce((sum, s) => sum + s.bytes, 0);
  const ms = sample.reduce((sum, s) => sum + s.ms, 0);
  if (bytes === 0 || ms === 0) return null;
  return 1000 / (perByte > 0 ? perByte : ms / bytes);
}

/** Runs of the past that say something about the next: the newest come first. */
const PAST_RUNS = 40;
/** As many runs as what was assumed before there were any weighs. */
const PRIOR_RUNS = 2;

/**
 * An estimate corrected by how the last ones came out: their usual error moves it, and its range is as
 * wide as they were wrong.
 */
function calibrated(likely: number, spread: number, past: readonly PastRun[]): Range {
  const errors = past
    .slice(0, PAST_RUNS)
    .filter((run) => run.likely > 0 && run.actual > 0)
    .map((run) => Math.log(run.actual / run.likely));
  const weight = errors.length / (errors.length + PRIOR_RUNS);
  return ranged(likely * Math.exp(weight * middle(errors)), spreadOf(errors, spread));
}

/** How far runs usually are from what was expected; `otherwise` until there were enough of them. */
function spreadOf(errors: readonly number[], otherwise: number): number {
  if (errors.length < 5) return Math.max(LEAST_SPREAD, otherwise);
  const weight = errors.length / (errors.length + PRIOR_RUNS);
  // The middle four fifths of the errors decide, so that one strange run does not widen it for all.
  const seen = halfWidth(errors, middle(errors)) / RANGE_SIGMA;
  return Math.max(LEAST_SPREAD, weight * seen + (1 - weight) * otherwise);
}

function ranged(likely: number, sigma: number): Range {
  return {
    low: likely * Math.exp(-RANGE_SIGMA * sigma),
    likely,
    high: likely * Math.exp(RANGE_SIGMA * sigma),
  };
}

function middle(values: readonly number[]): number {
  if (values.length === 0) return 0;
  const sorted = [...values].sort((a, b) => a - b);
  const half = Math.floor(sorted.length / 2);
  const upper = sorted[half] ?? 0;
  return sorted.length % 2 === 1 ? upper : (upper + (sorted[half - 1] ?? upper)) / 2;
}

/** How far from the centre four fifths of the values lie. */
function halfWidth(values: readonly number[], centre: number): number {
  const distances = values.map((v) => Math.abs(v - centre)).sort((a, b) => a - b);
  // A little more than four fifths: the next value is not one of those that were seen.
  const place = Math.min(distances.length - 1, Math.ceil(0.8 * (distances.length + 1)) - 1);
  return distances[place] ?? 0;
}
