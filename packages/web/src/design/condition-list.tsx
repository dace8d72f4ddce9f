import type { Condition } from '@bright-cellar/core';
import clsx from 'clsx';
import { Check, X } from 'lucide-react';

/** What a device must meet, each with what was read from it. */
export function ConditionList({ conditions }: { conditions: readonly Condition[] }) {
  return (
    <ul aria-label="What the device must meet" className="flex flex-col pt-2 text-small">
      {conditions.map((condition) => (
        <li key={condition.id} className="flex items-start gap-2 border-t border-line py-1">
          {condition.met ? (
            <Check aria-label="met" className="mt-0.5 size-4 shrink-0 text-proven" />
          ) : (
            <X aria-label="not met" className="mt-0.5 size-4 shrink-0 text-danger" />
          )}
          <span className={clsx('flex-1', !condition.met && 'font-semibold')}>
            {condition.label}
          </span>
          <span className="text-right text-soft">{condition.reading}</span>
        </li>
      ))}
    </ul>
  );
}
