import { checkAgeNames, copyCountNames, type CareRules } from '@bright-cellar/core';
import { Choice, YesNo } from '../design/choice.js';
import { clockTime, minuteOf } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { useState } from 'react';

/** How the shop keeps what it keeps: how many copies, where, and how often they are looked at. */
export function CareFields({
  rules,
  onChange,
}: {
  rules: CareRules;
  onChange: (rules: CareRules) => void;
}) {
  const hours = (quietHours: Partial<CareRules['quietHours']>) =>
    onChange({ ...rules, quietHours: { ...rules.quietHours, ...quietHours } });
  return (
    <>
      <Choice
        label="Copies of each archive"
        hint="One that is damaged, or older than another, counts as none."
        value={rules.copies}
        options={copyCountNames}
        onChange={(copies) => onChange({ ...rules, copies })}
      />
      <YesNo
        label="One of them off the premises"
        checked={rules.offPremises}
        onChange={(offPremises) => onChange({ ...rules, offPremises })}
      />
      <Choice
        label="Every copy is read back"
        hint="Without a password, the one first that was looked at longest ago."
        value={rules.checkEvery}
        options={checkAgeNames}
        onChange={(checkEvery) => onChange({ ...rules, checkEvery })}
      />
      <div className="grid max-w-xs grid-cols-2 gap-4">
        <TimeField
          label="Quiet from"
          minute={rules.quietHours.from}
          onChange={(from) => hours({ from })}
        />
        <TimeField
          label="Quiet until"
          minute={rules.quietHours.to}
          onChange={(to) => hours({ to })}
        />
      </div>
      <YesNo
        label="Owed copies are made by themselves in quiet hours"
        checked={rules.copiesByThemselves}
        onChange={(copiesByThemselves) => onChange({ ...rules, copiesByThemselves })}
      />
    </>
  );
}

/** A time of day, as it is typed; what is none changes nothing and says so. */
function TimeField({
  label,
  minute,
  onChange,
}: {
  label: string;
  minute: number;
  onChange: (minute: number) => void;
}) {
  const [typed, setTyped] = useState(clockTime(minute));
  return (
    <TextField
      label={label}
      value={typed}
      error={minuteOf(typed) === null ? 'A time, as 22:00.' : undefined}
      onChange={({ target: { value } }) => {
        setTyped(value);
        const found = minuteOf(value);
        if (found !== null) onChange(found);
      }}
    />
  );
}
