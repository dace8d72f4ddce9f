import { formatDuration, passwordProblem } from '@bright-cellar/core';
import { useEffect, useState } from 'react';

type Estimator = typeof import('@bright-cellar/core/strength');
/** Guesses a second against a stolen archive: each costs 128 MiB and most of a second of one core, and thieves rent many. */
const GUESSES_PER_SECOND = 10_000;
const YEAR_S = 31_557_600;

/** Fetched only when somebody types a password: it brings its word lists along. */
function useEstimator(): Estimator | null {
  const [estimator, setEstimator] = useState<Estimator | null>(null);
  useEffect(() => {
    let wanted = true;
    void import('@bright-cellar/core/strength').then((loaded) => {
      if (wanted) setEstimator(loaded);
    });
    return () => {
      wanted = false;
    };
  }, []);
  return estimator;
}

/** How long a password would hold, in a sentence. */
export function PasswordStrength({ password }: { password: string }) {
  const estimator = useEstimator();
  if (password === '')
    return 'Four words that do not belong together are strong and can be remembered.';
  const refused = estimator ? estimator.newPasswordProblem(password) : passwordProblem(password);
  if (refused) return <span className="font-semibold text-danger">{refused.what}</span>;
  if (!estimator) return 'Measuring …';
  const seconds = estimator.guessesFor(password) / GUESSES_PER_SECOND / 2;
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
