import type { Plan } from '@bright-cellar/contract';
import { Choice } from '../design/choice.js';

/** What was taken before, and is proposed again: choosing one takes it as the plan. */
export function SavedPlans({
  plans,
  onTake,
}: {
  plans: readonly Plan[];
  onTake: (plan: Plan) => void;
}) {
  if (plans.length === 0) return null;
  return (
    <Choice<string>
      label="Take a plan from before"
      placeholder="Choose …"
      value=""
      options={Object.fromEntries(plans.map((p) => [p.id, p.name || p.because]))}
      onChange={(id) => {
        const plan = plans.find((p) => p.id === id);
        if (plan) onTake(plan);
      }}
    />
  );
}
