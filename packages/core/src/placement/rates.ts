import type { Rate } from './stock.js';

/** What reading or writing took, once. */
interface Sample {
  bytes: number;
  durationMs: number;
}

/** What drives do of which nothing is known: from a stick to a fixed disk. Bytes a second. */
const UNKNOWN: Rate = { low: 15e6, high: 150e6 };
/** Less says more of beginning and ending than of the rate. */
const LEAST_BYTES = 1e6;
const LEAST_SAMPLES = 3;

/** The range in which most of some readings or writings were; wide where there were few. */
export function rateFrom(samples: readonly Sample[]): Rate {
  const rates = samples
    .filter(({ bytes, durationMs }) => bytes >= LEAST_BYTES && durationMs > 0)
    .map(({ bytes, durationMs }) => (bytes / durationMs) * 1000)
    .sort((a, b) => a - b);
  const [first] = rates;
  const last = rates.at(-1);
  if (first === undefined || last === undefined) return UNKNOWN;
  if (rates.length < LEAST_SAMPLES) return { low: first / 2, high: last * 2 };
  const at = (share: number) => rates[Math.round(share * (rates.length - 1))] ?? first;
  return { low: at(0.2), high: at(0.8) };
}
