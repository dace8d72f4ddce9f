const DAY_MS = 86_400_000;

/** A backup, as far as a rule looks at it. */
export interface PrunableBackup<Id extends string = string> {
  id: Id;
  takenAt: Date;
  isProven: boolean;
}

/** Which backups of an archive a rule keeps. */
export interface KeepRule {
  /** So many of the newest, one at least. */
  newest: number;
  /** And all that are no older than so many days; 0: by their number only. */
  days: number;
}

/**
 * Which backups may go by a rule. Never the newest, nor the last that is proven: a rule alone takes nobody's only proof.
 * @param backups in any order
 */
export function mayGo<Id extends string>(
  backups: readonly PrunableBackup<Id>[],
  { newest, days }: KeepRule,
  now: Date,
): Id[] {
  const sorted = [...backups].sort((a, b) => b.takenAt.getTime() - a.takenAt.getTime());
  const lastProven = sorted.find(({ isProven }) => isProven)?.id;
  const since = now.getTime() - days * DAY_MS;
  return sorted
    .slice(Math.max(1, newest))
    .filter(({ id, takenAt }) => id !== lastProven && (days === 0 || takenAt.getTime() < since))
    .map(({ id }) => id);
}
