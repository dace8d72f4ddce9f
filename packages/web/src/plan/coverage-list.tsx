import type { CoverageLine } from '@bright-cellar/core';
import clsx from 'clsx';
import { Check, CircleSlash, CircleDashed } from 'lucide-react';

const marks = {
  inside: { icon: <Check />, word: 'Inside' },
  partly: { icon: <CircleDashed />, word: 'Partly' },
  outside: { icon: <CircleSlash />, word: 'Not inside' },
};

/** What a backup holds, and what it does not: why, and how that comes back. */
export function CoverageList({ lines }: { lines: readonly CoverageLine[] }) {
  return (
    <ul aria-label="Coverage" className="flex flex-col border border-line bg-surface text-small">
      {lines.map((line) => (
        <li
          key={line.id}
          data-state={line.state}
          className="flex gap-2 border-b border-line px-2.5 py-1.5 last:border-b-0 [&_svg]:mt-0.5 [&_svg]:size-3.5 [&_svg]:shrink-0"
        >
          {marks[line.state].icon}
          <div className="min-w-0 flex-1">
            <p className="flex flex-wrap justify-between gap-x-3">
              <span className="font-semibold">{line.what}</span>{' '}
              <span className={clsx(line.state === 'inside' ? 'text-soft' : 'font-semibold')}>
                {marks[line.state].word.toLowerCase()}
              </span>
            </p>
            <p className="text-soft">{line.why}</p>
            {line.returns && <p>{line.returns}</p>}
          </div>
        </li>
      ))}
    </ul>
  );
}
