import clsx from 'clsx';
import type { ButtonHTMLAttributes } from 'react';
import { Link, type LinkProps } from 'react-router';

const looks = {
  main: 'bg-ink text-ground hover:opacity-85',
  plain: 'border border-edge bg-surface text-ink hover:bg-ground',
  danger: 'border-2 border-danger bg-surface text-danger hover:bg-danger-wash',
};
type Look = keyof typeof looks;

export const buttonShape = (look: Look) =>
  clsx(
    'inline-flex h-9 items-center justify-center gap-2 rounded-sm px-4 font-semibold whitespace-nowrap [&_svg]:size-4',
    'disabled:cursor-not-allowed disabled:border disabled:border-line disabled:bg-ground disabled:text-soft disabled:hover:opacity-100',
    looks[look],
  );

/** `busy` keeps the button where it is while what it started is being asked for. */
export function Button({
  look = 'plain',
  busy = false,
  className,
  children,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; busy?: boolean }) {
  return (
    <button
      type="button"
      {...rest}
      disabled={busy || rest.disabled === true}
      aria-busy={busy}
      className={clsx(buttonShape(look), className)}
    >
      {busy ? 'One moment …' : children}
    </button>
  );
}

export function ButtonLink({ look = 'plain', className, ...rest }: LinkProps & { look?: Look }) {
  return <Link {...rest} className={clsx(buttonShape(look), className)} />;
}
