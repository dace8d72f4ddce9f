import type { ReactNode } from 'react';

/** A large number with its unit and what it counts. */
export function Figure({
  value,
  of,
  children,
}: {
  value: string;
  of?: string;
  children: ReactNode;
}) {
  return (
    <div className="flex flex-col">
      <span className="text-small text-soft">{children}</span>
      <span className="text-large font-bold whitespace-nowrap">{value}</span>
      {of && <span className="text-small text-soft">{of}</span>}
    </div>
  );
}

/** Names on the left, values on the right, one fact a line. */
export function Facts({
  facts,
}: {
  facts: readonly (readonly [name: string, value: ReactNode])[];
}) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      {facts.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-soft">{name}</dt>
          <dd className="min-w-0 break-words">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** How far something is. Never without its figure beside it. */
export function Bar({ share, label }: { share: number; label: string }) {
  const percent = Math.round(Math.min(1, Math.max(0, share)) * 100);
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={percent}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-2 w-full bg-line"
    >
      <div
        className="h-full bg-ink transition-[width] duration-300"
        style={{ width: `${percent}%` }}
      />
    </div>
  );
}
