import type { RestoreChoices } from '@bright-cellar/contract';
import { formatDurationRange, restoreTroubles } from '@bright-cellar/core';
import { day } from '../design/dates.js';

/** A backup of a device, as one that may go back. */
export type Restorable = RestoreChoices['backups'][number];

export const restorePath = ({ archiveId, id }: Restorable): string => `/restore/${archiveId}/${id}`;

/** Where it lies, and how long reading it there takes, as the end of a sentence. */
export const placesOf = ({ places }: Restorable): string =>
  places
    .map(({ rackName, isHere, readMs: { low, high } }) =>
      isHere ? `${rackName}, read in ${formatDurationRange(low, high)}` : `${rackName} (away)`,
    )
    .join('; ') || 'no rack';

/** Why the one that is proposed is it, and the newer ones are not. */
export function whyProposed({ passedOver, backups }: RestoreChoices): string {
  if (passedOver.length === 0) return 'The newest of this device: all of it, proven, and here.';
  const dayOf = (id: string) => day(backups.find((one) => one.id === id)?.takenAt ?? '');
  const over = passedOver.map(
    ({ id, trouble }) => `That of ${dayOf(id)} ${restoreTroubles[trouble]}.`,
  );
  return `The newest of this device that is all of it, proven, and here. ${over.join(' ')}`;
}
