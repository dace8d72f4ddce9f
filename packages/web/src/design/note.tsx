import type { Problem } from '@bright-cellar/core';
import clsx from 'clsx';
import type { ReactNode } from 'react';

/** What went wrong, what is safe, what to do now: always all three. */
export function ProblemNote({ problem }: { problem: Pick<Problem, 'what' | 'safe' | 'next'> }) {
  return (
    <div role="alert" className="border-l-4 border-danger bg-danger-wash px-4 py-2.5">
      <p className="font-semibold">{problem.what}</p>
      <p>{problem.safe}</p>
      <p>{problem.next}</p>
    </div>
  );
}

/** Something worth knowing that is not wrong. */
export function Note({
  tone = 'plain',
  children,
}: {
  tone?: 'plain' | 'proven';
  children: ReactNode;
}) {
  return (
    <div
      className={clsx(
        'border-l-4 px-4 py-2.5',
        tone === 'proven' ? 'border-proven bg-proven-wash' : 'border-edge bg-ground',
      )}
    >
      {children}
    </div>
  );
}
