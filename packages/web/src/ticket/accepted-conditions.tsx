import type { Condition } from '@bright-cellar/core';
import { YesNo } from '../design/choice.js';

/** What should be done on the device first, and what is lost when somebody starts all the same. */
export function AcceptedConditions({
  readiness,
  accepted,
  onChange,
}: {
  readiness: readonly Condition[];
  accepted: readonly string[];
  onChange: (accepted: readonly string[]) => void;
}) {
  const open = readiness.filter((c) => !c.met && c.weight !== 'must');
  if (open.length === 0) return null;
  return (
    <ul aria-label="Before it starts" className="flex flex-col gap-2">
      {open.map((condition) => (
        <li key={condition.id} className="border-l-4 border-edge bg-ground px-4 py-2">
          <p className="font-semibold">{condition.remedy}</p>
          {condition.weight === 'accept' ? (
            <YesNo
              label={`Start without it: ${condition.otherwise ?? ''}`}
              checked={accepted.includes(condition.id)}
              onChange={(yes) =>
                onChange(
                  yes ? [...accepted, condition.id] : accepted.filter((id) => id !== condition.id),
                )
              }
            />
          ) : (
            <p className="text-soft">{condition.otherwise}</p>
          )}
        </li>
      ))}
    </ul>
  );
}
