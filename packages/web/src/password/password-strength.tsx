import { formatDuration, passwordProblem } from '@bright-cellar/core';
import { useEffect, useState } from 'react';

type Estimate = typeof import('zxcvbn');
/** Guesses a second against a stolen archive: each costs 128 MiB and most of a second of one core, and thieves rent many. */
const GUESSES_PER_SECOND = 10_000;
const YEAR_S = 31_557_600;

/** A well-known estimator, fetched only when somebody types a password: it brings its word lists along. */
function useEstimator(): Estimate | null {
  const [estimate, setEstimate] = useState<Estimate | null>(null);
  useEffect(() => {
    let wanted = true;
    void import('zxcvbn').then((loaded) => {
      if (wanted) setEstimate(() => loaded.default);
    });
    return () => {
      wanted = false;
    };
  }, []);
  return estimate;
}

/** How long a password would hold, in a sentence. */
export function PasswordStrength({ password }: { password: string }) {
  const estimate = useEstimator();
  if (password === '')
    return 'Four words that do not belong together are strong and can be remembered.';
  const refused = passwordProblem(password);
  if (refused) return <span className="font-semibold text-danger">{refused.what}</span>;
  if (!estimate) return 'Measuring …';
  const seconds = estimate(password.slice(0, 100)).guesses / GUESSES_PER_SECOND / 2;
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
