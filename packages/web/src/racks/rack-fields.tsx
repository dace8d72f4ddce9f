import type { RackRules } from '@bright-cellar/contract';
import { YesNo } from '../design/choice.js';
import { TextField } from '../design/field.js';

const GB = 1e9;

/** What the shop decides of a rack. The reserve is typed in gigabytes, as drives are printed. */
export function RackFields({
  rules,
  onChange,
}: {
  rules: RackRules;
  onChange: (rules: RackRules) => void;
}) {
  return (
    <>
      <TextField
        label="Name"
        value={rules.name}
        maxLength={60}
        onChange={(event) => onChange({ ...rules, name: event.target.value })}
      />
      <TextField
        label="Reserve, in GB"
        type="number"
        min={0}
        hint="Stays free whatever is planned."
        value={String(Math.round(rules.reserve / GB))}
        onChange={(event) =>
          onChange({ ...rules, reserve: Math.max(0, Number(event.target.value) || 0) * GB })
        }
      />
      <TextField
        label="Note"
        value={rules.note}
        maxLength={120}
        hint="Where it stands, or the ticket that it belongs to. It goes on the label."
        onChange={(event) => onChange({ ...rules, note: event.target.value })}
      />
      <YesNo
        label="It stands off the premises"
        checked={rules.offPremises}
        onChange={(offPremises) => onChange({ ...rules, offPremises })}
      />
    </>
  );
}
