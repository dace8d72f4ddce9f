import { TextField } from '../design/field.js';

/** Asks for a password that is there already, with the reminder that its holder chose. */
export function PasswordField({
  label = 'Password of the archive',
  reminder = '',
  hint,
  value,
  onChange,
  className,
}: {
  label?: string;
  reminder?: string;
  /** Shown where there is no reminder. */
  hint?: string;
  value: string;
  onChange: (password: string) => void;
  className?: string;
}) {
  return (
    <TextField
      label={label}
      type="password"
      autoComplete="off"
      {...(className ? { className } : {})}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      hint={reminder ? `Reminder: ${reminder}` : hint}
    />
  );
}
