const DAY_MS = 86_400_000;

/** A visit of a device, as far as keeping its backup goes. */
export interface KeptVisit {
  /** Null while it is open. */
  closedAt: Date | null;
  /** As it was agreed: days after the visit's end; 0 where it was not. */
  keepDays: number;
}

/** What somebody said of one archive since, in the customer's name. */
export type KeptLonger = { until: Date } | 'until-told' | null;

/**
 * When an archive is due: kept no longer by what was agreed. Null where it is not in sight: a visit is open, or it is kept
 * until the customer says otherwise. Nothing is ever removed because it is due.
 */
export function dueOn(visits: readonly KeptVisit[], longer: KeptLonger): Date | null {
  if (longer === 'until-told') return null;
  const ends = visits.map(({ closedAt, keepDays }) =>
    closedAt === null ? Infinity : closedAt.getTime() + keepDays * DAY_MS,
  );
  const last = Math.max(...ends, longer?.until.getTime() ?? -Infinity);
  return Number.isFinite(last) ? new Date(last) : null;
}
