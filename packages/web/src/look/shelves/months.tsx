import { addMonths, format } from 'date-fns';

/** How much there is in each month, to scale: one goes there by pressing it. */
export function Months({
  months,
  words,
  onGo,
}: {
  /** In the order of time, or against it. */
  months: readonly Month[];
  /** So many of them, in words. */
  words: (count: number) => string;
  onGo: (first: number) => void;
}) {
  const inTime = withoutGaps(months);
  const most = Math.max(...inTime.map(({ count }) => count));
  const [first, last] = [inTime[0], inTime.at(-1)];
  if (inTime.length < 2 || !first || !last) return null;
  return (
    <div className="flex flex-col">
      <div className="flex h-12 items-end gap-px" role="group" aria-label="Go to a month">
        {inTime.map(({ month, count, first: row }) =>
          count === 0 ? (
            <span key={month} className="min-w-px flex-1 border-b border-line" />
          ) : (
            <button
              key={month}
              type="button"
              title={`${monthName(month)}: ${words(count)}`}
              aria-label={`${monthName(month)}: ${words(count)}`}
              onClick={() => onGo(row)}
              className="flex h-full min-w-1 flex-1 items-end hover:bg-surface"
            >
              <span
                className="block w-full bg-ink/60"
                style={{ height: `${Math.max(6, (count / most) * 100)}%` }}
              />
            </button>
          ),
        )}
      </div>
      <p className="flex justify-between text-small text-soft">
        <span>{monthName(first.month)}</span>
        <span>{monthName(last.month)}</span>
      </p>
    </div>
  );
}

interface Month {
  month: string;
  count: number;
  first: number;
}

/** More months than these are told without those in which there is nothing: somebody's clock was wrong. */
const MONTHS_MOST = 400;

/** In the order of time, with the months in between in which there is nothing. */
function withoutGaps(months: readonly Month[]): Month[] {
  const sorted = [...months].sort((a, b) => (a.month < b.month ? -1 : 1));
  const all: Month[] = [];
  for (const one of sorted) {
    for (
      let next = after(all.at(-1)?.month);
      next !== null && next < one.month;
      next = after(next)
    ) {
      all.push({ month: next, count: 0, first: 0 });
      if (all.length > MONTHS_MOST) return sorted;
    }
    all.push(one);
  }
  return all;
}

/** The month after one, as `2026-04`. */
const after = (month: string | undefined): string | null =>
  month === undefined ? null : format(addMonths(new Date(`${month}-15`), 1), 'yyyy-MM');

/** As `Mar 2026`. */
export const monthName = (month: string): string => format(new Date(`${month}-15`), 'MMM yyyy');
