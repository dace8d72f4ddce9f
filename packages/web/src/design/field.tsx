import clsx from 'clsx';
import {
  useId,
  type InputHTMLAttributes,
  type ReactNode,
  type TextareaHTMLAttributes,
} from 'react';

export const inputShape =
  'h-9 w-full rounded-sm border border-edge bg-surface px-2.5 text-ink placeholder:text-soft aria-invalid:border-2 aria-invalid:border-danger';

/** A label over its input, with a hint and, where something is wrong, what. */
export function Field({
  label,
  hint,
  error,
  className,
  children,
}: {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
  className?: string;
  children: (ids: { id: string; 'aria-describedby': string; 'aria-invalid': boolean }) => ReactNode;
}) {
  const id = useId();
  return (
    <div className={clsx('flex flex-col gap-1', className)}>
      <label htmlFor={id} className="font-semibold">
        {label}
      </label>
      {children({ id, 'aria-describedby': `${id}-more`, 'aria-invalid': error !== undefined })}
      <div id={`${id}-more`} className="text-small text-soft empty:-mt-1">
        {error ? <span className="font-semibold text-danger">{error}</span> : hint}
      </div>
    </div>
  );
}

export function TextField({
  label,
  hint,
  error,
  className,
  mono = false,
  ...input
}: InputHTMLAttributes<HTMLInputElement> & {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
  mono?: boolean;
}) {
  return (
    <Field label={label} hint={hint} error={error} {...(className ? { className } : {})}>
      {(ids) => <input {...input} {...ids} className={clsx(inputShape, mono && 'font-mono')} />}
    </Field>
  );
}

/** Several lines of words. */
export function Lines({
  label,
  hint,
  error,
  ...input
}: TextareaHTMLAttributes<HTMLTextAreaElement> & {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
}) {
  return (
    <Field label={label} hint={hint} error={error}>
      {(ids) => <textarea {...input} {...ids} className={clsx(inputShape, 'h-24 py-2')} />}
    </Field>
  );
}

/** Several lines, as they are, in a fixed pitch. */
export function TextBlock({
  label,
  hint,
  ...input
}: TextareaHTMLAttributes<HTMLTextAreaElement> & { label: string; hint?: ReactNode }) {
  return (
    <Field label={label} hint={hint}>
      {(ids) => (
        <textarea
          {...input}
          {...ids}
          className={clsx(inputShape, 'h-24 py-2 font-mono text-small')}
        />
      )}
    </Field>
  );
}
