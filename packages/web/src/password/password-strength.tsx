import { formatDuration, passwordProblem } from '@bright-cellar/core';
import { useEffect, useRef, useState } from 'react';
import { startMeasuring } from './measuring.js';
import type { Strength } from './strength.js';

/** Guesses a second against a stolen archive: each costs 128 MiB and most of a second of one core, and thieves rent many. */
const GUESSES_PER_SECOND = 10_000;
const YEAR_S = 31_557_600;

/**
 * What a password was worth that was typed up to a moment ago; null until the first is measured. The word lists are fetched only
 * when somebody types one.
 */
function useStrength(password: string): Strength | null {
  const [strength, setStrength] = useState<Strength | null>(null);
  const measuring = useRef<ReturnType<typeof startMeasuring> | null>(null);
  useEffect(
    () => () => {
      measuring.current?.end();
      measuring.current = null;
    },
    [],
  );
  useEffect(() => {
    if (password === '') return;
    measuring.current ??= startMeasuring(setStrength);
    measuring.current.measure(password);
  }, [password]);
  return strength;
}

/** How long a password would hold, in a sentence. */
export function PasswordStrength({ password }: { password: string }) {
  const strength = useStrength(password);
  if (password === '')
    return 'Four words that do not belong together are strong and can be remembered.';
  const refused = passwordProblem(password)?.what ?? strength?.refused;
  if (refused) return <span className="font-semibold text-danger">{refused}</span>;
  if (!strength) return 'Measuring …';
  const seconds = strength.guesses / GUESSES_PER_SECOND / 2;
  const years = seconds / YEAR_S;
  if (years < 1) {
    return (
      <span className="font-semibold text-danger">
        Weak: would be found in about {formatLong(seconds)}.
      </span>
    );
  }
  return years < 100 ? (
    <span className="font-semibold">Fair: would hold for about {formatLong(seconds)}.</span>
  ) : (
    <span className="font-semibold text-proven">
      Strong: would hold for more than a hundred years.
    </span>
  );
}

function formatLong(seconds: number): string {
  if (seconds < 86_400) return formatDuration(Math.max(1, seconds) * 1000);
  const days = seconds / 86_400;
  return days < 365 ? `${Math.round(days)} days` : `${Math.round(days / 365.25)} years`;
}
