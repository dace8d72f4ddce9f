import type { BackupRun } from '@bright-cellar/archive';
import type { BackupId } from '@bright-cellar/core';

type DurableItems = NonNullable<BackupRun['durable']>;

/** Backups that are being taken by this process, by what of them is durable: for whoever sends that further meanwhile. */
const underway = new Map<BackupId, DurableItems>();

export function isUnderway(backup: BackupId, durable: DurableItems): void {
  underway.set(backup, durable);
}

export function isOverNow(backup: BackupId): void {
  underway.delete(backup);
}

/** Null before it began, and once it is over. */
export const durableOf = (backup: BackupId): DurableItems | null => underway.get(backup) ?? null;
