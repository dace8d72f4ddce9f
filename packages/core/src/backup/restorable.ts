/** A backup of a device, as far as the question is which of them goes back. */
export interface BackupToChoose {
  id: string;
  /** ISO 8601, UTC. */
  takenAt: string;
  /** All that the device gave out then, not a chosen part. */
  everything: boolean;
  /** When a proof last found it whole; null where none did. */
  provenAt: string | null;
  /** What was last looked at of it was not whole. */
  damaged: boolean;
  /** A copy of it is on a rack that is here now. */
  isHere: boolean;
}

/** What speaks against a backup, the worst first, as the end of a sentence about it. */
export const restoreTroubles = {
  damaged: 'is damaged',
  part: 'holds only a chosen part',
  unproven: 'is not proven',
  away: 'lies on no rack that is here',
} as const;
export type RestoreTrouble = keyof typeof restoreTroubles;

export const troublesOf = (backup: BackupToChoose): RestoreTrouble[] => [
  ...(backup.damaged ? ['damaged' as const] : []),
  ...(backup.everything ? [] : ['part' as const]),
  ...(backup.provenAt === null && !backup.damaged ? ['unproven' as const] : []),
  ...(backup.isHere ? [] : ['away' as const]),
];

/**
 * The newest against which nothing speaks, and those that are newer and were passed over for what does.
 * @returns no id where something speaks against each
 */
export function proposedBackup(all: readonly BackupToChoose[]): {
  id: string | null;
  passedOver: { id: string; trouble: RestoreTrouble }[];
} {
  const newestFirst = all.toSorted((a, b) => (a.takenAt < b.takenAt ? 1 : -1));
  const passedOver: { id: string; trouble: RestoreTrouble }[] = [];
  for (const backup of newestFirst) {
    const [trouble] = troublesOf(backup);
    if (!trouble) return { id: backup.id, passedOver };
    passedOver.push({ id: backup.id, trouble });
  }
  return { id: null, passedOver };
}
