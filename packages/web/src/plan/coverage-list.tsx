import type { CoverageLine } from '@bright-cellar/core';
import { Check, CircleSlash, CircleDashed } from 'lucide-react';

const marks = {
  partly: { icon: <CircleDashed />, word: 'partly' },
  outside: { icon: <CircleSlash />, word: 'not inside' },
  inside: { icon: <Check />, word: 'inside' },
};
/** What is missing comes first: that is what customers learn too late. */
const order = Object.keys(marks);

/** What a backup holds, and what it does not: why, and how that comes back. */
export function CoverageList({ lines }: { lines: readonly CoverageLine[] }) {
  const sorted = lines.toSorted((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
  return (
    <ul aria-label="Coverage" className="flex flex-col border border-line bg-surface text-small">
      {sorted.map((line) => (
        <li
          key={line.id}
          data-state={line.state}
          className="flex gap-2 border-b border-line px-2.5 py-1 last:border-b-0 [&_svg]:mt-0.5 [&_svg]:size-3.5 [&_svg]:shrink-0"
        >
          {marks[line.state].icon}
          <div className="min-w-0 flex-1">
            <p className="flex flex-wrap justify-between gap-x-3">
              <span className="font-semibold">
                {line.what}
                {line.state === 'inside' && <span className="sr-only"> {marks.inside.word}</span>}
              </span>{' '}
              {line.state === 'inside' ? (
                <span className="text-soft">{line.why}</span>
              ) : (
                <span className="font-semibold">{marks[line.state].word}</span>
              )}
            </p>
            {line.state !== 'inside' && <p className="text-soft">{line.why}</p>}
            {line.returns && <p>{line.returns}</p>}
          </div>
        </li>
      ))}
    </ul>
  );
}
