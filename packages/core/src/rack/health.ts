import { z } from 'zod';

/** What a rack's own ledger of looks says of it. Bytes a second. */
export const rackHealthSchema = z.object({
  ailing: z.boolean(),
  /** What is wrong and what to do, with its figures; null where nothing is. */
  sentence: z.string().nullable(),
  /** The middle of the last few readings, and of those before; null where there are too few. */
  rate: z.number().nullable(),
  rateBefore: z.number().nullable(),
});
export type RackHealth = z.infer<typeof rackHealthSchema>;

/** A look at a copy that read all of it. */
export interface Reading {
  outcome: 'whole' | 'damaged';
  readBytes: number;
  durationMs: number;
}

/** Of less, the time is that of opening files. */
const LEAST_BYTES = 50e6;
const RECENT = 5;
const LEAST_RECENT = 3;
const LEAST_BEFORE = 5;
/** A disk that reads half as fast as it did tries again where it should not have to. */
const SLOWER = 0.5;
/** Damage longer ago than so many looks has been dealt with. */
const DAMAGE_WITHIN = 20;

/** @param readings the newest first, without password, so that they are alike */
export function healthOf(readings: readonly Reading[]): RackHealth {
  const rates = readings
    .filter(({ readBytes, durationMs }) => readBytes >= LEAST_BYTES && durationMs > 0)
    .map(({ readBytes, durationMs }) => (readBytes / durationMs) * 1000);
  const [recent, before] = [rates.slice(0, RECENT), rates.slice(RECENT)];
  const rate = recent.length >= LEAST_RECENT ? middleOf(recent) : null;
  const rateBefore = before.length >= LEAST_BEFORE ? middleOf(before) : null;
  const damaged = readings
    .slice(0, DAMAGE_WITHIN)
    .filter(({ outcome }) => outcome === 'damaged').length;
  const isSlower = rate !== null && rateBefore !== null && rate < rateBefore * SLOWER;
  return {
    ailing: damaged > 0 || isSlower,
    sentence: wordsFor(damaged, isSlower, rate, rateBefore),
    rate,
    rateBefore,
  };
}

function wordsFor(
  damaged: number,
  isSlower: boolean,
  rate: number | null,
  rateBefore: number | null,
): string | null {
  const inMB = (bytes: number | null) => `${Math.round((bytes ?? 0) / 1e6)} MB/s`;
  const next = 'Move what lies here to another rack, then replace it.';
  if (damaged > 0) {
    const times = damaged === 1 ? 'One look' : `${damaged} looks`;
    return `${times} of the last ${DAMAGE_WITHIN} found damage here. ${next}`;
  }
  if (isSlower) return `It reads at ${inMB(rate)}, and read at ${inMB(rateBefore)} before. ${next}`;
  return null;
}

function middleOf(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[sorted.length >> 1] ?? 0;
}
