import { isSettled, settlingSteps, type SettlingStep } from '@bright-cellar/core';
import clsx from 'clsx';
import { Check, Circle } from 'lucide-react';

/** What a device that was filled asks of its owner, as it reports it; what is left is on the sheet that they take home. */
export function SettlingList({ steps }: { steps: readonly SettlingStep[] }) {
  if (steps.length === 0) return null;
  const left = steps.filter((step) => !isSettled(step));
  return (
    <section aria-label="What the device asks" className="flex flex-col gap-1 text-small">
      <ul className="flex flex-wrap gap-x-6 gap-y-1">
        {steps.map((step) => {
          const isDone = isSettled(step);
          return (
            <li key={step.id} className="flex items-center gap-1.5">
              {isDone ? (
                <Check aria-label="done" className="size-4 text-proven" />
              ) : (
                <Circle aria-label="open" className="size-4 text-soft" />
              )}
              <span className={clsx(!isDone && 'font-semibold')}>
                {settlingSteps[step.id].name}
              </span>
              {step.of > 1 && (
                <span className="text-soft">
                  {step.done} of {step.of}
                </span>
              )}
            </li>
          );
        })}
      </ul>
      <p className="text-soft">
        {left.length === 0
          ? 'It is ready to be handed over.'
          : 'What the customer does at home instead stands on their handover sheet.'}
      </p>
    </section>
  );
}
