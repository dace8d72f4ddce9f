import clsx from 'clsx';
import { useEffect, type ReactNode } from 'react';

/**
 * Every page: what it is, and at its top the one sentence that says what to do now. `calm` when
 * nobody has to do anything, so that the lamp stays off.
 */
export function Page({
  title,
  aside,
  now,
  calm = false,
  children,
}: {
  title: ReactNode;
  aside?: ReactNode;
  now: string;
  calm?: boolean;
  children: ReactNode;
}) {
  useEffect(() => {
    document.title = typeof title === 'string' ? `${title} · Bright Cellar` : 'Bright Cellar';
  }, [title]);
  return (
    <div className="flex flex-col gap-5 px-6 py-5">
      <header className="flex flex-col gap-3">
        <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
          <h1 className="text-title">{title}</h1>
          {aside}
        </div>
        <p
          role="status"
          className={clsx(
            'border-l-8 px-4 py-2.5 text-large font-semibold',
            calm ? 'border-line bg-surface' : 'border-lamp bg-lamplight',
          )}
        >
          {now}
        </p>
      </header>
      {children}
    </div>
  );
}

export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="flex flex-col gap-2">
      <div className="flex items-end justify-between gap-4">
        <h2 className="text-large">{title}</h2>
        {aside}
      </div>
      {children}
    </section>
  );
}
