import type { Solve } from '@bright-cellar/core/placement';
import type { Highs } from 'highs';

/** A plan is waited for: what is best so far after this time has to do. Seconds. */
const TIME_LIMIT_S = 0.8;

/** A solver of mixed-integer programs for move plans. */
export function solverOf(highs: Highs): Solve {
  return (program) => {
    const found = highs.solve(program, { time_limit: TIME_LIMIT_S });
    if (found.Status !== 'Optimal' && found.Status !== 'Time limit reached') return null;
    const columns = new Map<string, number>();
    for (const [name, { Primal }] of Object.entries(found.Columns) as [
      string,
      { Primal?: number },
    ][]) {
      if (Primal !== undefined && Math.abs(Primal) > 1e-6) columns.set(name, Primal);
    }
    return columns;
  };
}
