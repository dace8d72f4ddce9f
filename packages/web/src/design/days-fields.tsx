import type { DaySpan } from '@bright-cellar/core';
import { TextField } from './field.js';

export const isBackwards = ({ since, until }: DaySpan): boolean =>
  since !== null && until !== null && until < since;

/** Two days, either of which may be left out. */
export function DaysFields({
  first,
  days: { since, until },
  onChange,
}: {
  /** What the first day is called. */
  first: string;
  days: DaySpan;
  onChange: (days: DaySpan) => void;
}) {
  return (
    <>
      <TextField
        label={first}
        type="date"
        value={since ?? ''}
        onChange={({ target }) => onChange({ since: target.value || null, until })}
      />
      <TextField
        label="Until"
        type="date"
        {...(isBackwards({ since, until }) ? { error: 'This is before the other day.' } : {})}
        value={until ?? ''}
        onChange={({ target }) => onChange({ since, until: target.value || null })}
      />
    </>
  );
}
