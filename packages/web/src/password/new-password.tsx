import { passwordProblem } from '@bright-cellar/core';
import { useState } from 'react';
import { Choice } from '../design/choice.js';
import { TextField } from '../design/field.js';
import { PasswordStrength } from './password-strength.js';

const holders = {
  customer: 'The customer',
  shop: 'The shop',
  both: 'The customer and the shop',
} as const;

/** Where a password comes from. */
export const passwordSources = {
  typed: 'Typed here, twice',
  desk: 'Typed by the customer, on a page of their own',
  made: 'Made here, for a slip',
} as const;
export type PasswordSource = keyof typeof passwordSources;

export interface NewPassword {
  source: PasswordSource;
  password: string;
  again: string;
  holder: keyof typeof holders;
  reminder: string;
}

const nothing: NewPassword = {
  source: 'typed',
  password: '',
  again: '',
  holder: 'customer',
  reminder: '',
};

/** A password that is being chosen. `ready` when it can be used; `clear` forgets what was typed. */
export function useNewPassword() {
  const [value, setValue] = useState(nothing);
  const ready =
    value.source !== 'desk' &&
    passwordProblem(value.password) === null &&
    value.again === value.password;
  return {
    value,
    ready,
    set: (change: Partial<NewPassword>) => setValue((before) => ({ ...before, ...change })),
    clear: () => setValue((before) => ({ ...before, password: '', again: '' })),
  };
}

export type PasswordFields = Omit<ReturnType<typeof useNewPassword>, 'ready' | 'clear'>;

/** Typed twice, its strength shown; who holds it, and what reminds them of it. */
export function NewPasswordFields({ label, value, set }: PasswordFields & { label: string }) {
  return (
    <>
      <TypedTwice label={label} value={value} set={set} />
      <HolderFields value={value} set={set} />
    </>
  );
}

export function TypedTwice({ label, value, set }: PasswordFields & { label: string }) {
  const differs = value.again !== '' && value.again !== value.password;
  return (
    <>
      <TextField
        label={label}
        type="password"
        autoComplete="new-password"
        value={value.password}
        onChange={(event) => set({ password: event.target.value })}
        hint={<PasswordStrength password={value.password} />}
      />
      <TextField
        label="The same again"
        type="password"
        autoComplete="new-password"
        value={value.again}
        onChange={(event) => set({ again: event.target.value })}
        error={differs ? 'The two are not the same.' : undefined}
      />
    </>
  );
}

export function HolderFields({ value, set }: PasswordFields) {
  return (
    <>
      <Choice
        label="Who holds it"
        value={value.holder}
        options={holders}
        onChange={(holder) => set({ holder })}
      />
      <TextField
        label="Reminder"
        placeholder="never the password itself"
        autoComplete="off"
        value={value.reminder}
        onChange={(event) => set({ reminder: event.target.value })}
        maxLength={200}
      />
    </>
  );
}
