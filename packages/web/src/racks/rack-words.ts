import type { Elevation, Rack } from '@bright-cellar/contract';
import { formatBytes, isCarried, isNarrow, roomAbove } from '@bright-cellar/core';
import { day } from '../design/dates.js';

/** Whoever should be told before a rack is full has so many days to do something. */
const SOON_DAYS = 14;
const DAY_MS = 86_400_000;

/** Where it is, in a few words. */
export function whereWords({ present, seenAt, retiredAt }: Rack): string {
  if (retiredAt) return `out of use since ${day(retiredAt)}`;
  if (present) return 'here';
  return seenAt ? `away since ${day(seenAt)}` : 'never seen here';
}

/** When it will be full, as a range. */
export function fullWords(full: Elevation['full']): string {
  if (!full) return 'not in sight';
  const early = day(full.early);
  if (full.late === null) return `${early} at the earliest`;
  return full.early === full.late ? early : `${early} – ${day(full.late)}`;
}

/** A plan that would mend what needs somebody: what it does in words, and where it is made. */
interface Mending {
  name: string;
  to: string;
}

const mending = (wish: 'room' | 'empty', { id, name }: Rack): Mending => ({
  name: wish === 'room' ? `Make room on ${name}` : `Empty ${name}`,
  to: `/racks/plan?wish=${wish}&rack=${id}`,
});

/** What needs somebody about the racks, or that nothing does. */
export function whatNow(
  racks: readonly Rack[],
  elevations: readonly Elevation[],
  today: Date,
): { sentence: string; needs: boolean; plan?: Mending } {
  if (racks.length === 0)
    return { needs: true, sentence: 'Add the first rack: a folder of a disk, a drive or a share.' };
  const missing = racks.find(({ kind, present }) => !present && !isCarried(kind));
  if (missing)
    return {
      needs: true,
      sentence: `${missing.name} does not answer: switch it on or connect it. What lies there is known below.`,
    };
  const ailing = elevations.find((one) => one.ailing !== null);
  const sick = racks.find(({ id, present }) => id === ailing?.rackId && present);
  if (ailing?.ailing && sick)
    return {
      needs: true,
      sentence: `${sick.name} ails. ${ailing.ailing}`,
      plan: mending('empty', sick),
    };
  const narrow = racks.find((rack) => rack.present && isNarrow(rack));
  if (narrow)
    return {
      needs: true,
      sentence: `${narrow.name} has ${formatBytes(roomAbove(narrow))} left above its reserve: make room there, or add a rack.`,
      plan: mending('room', narrow),
    };
  const soon = elevations.find(
    ({ full }) => full && Date.parse(full.early) - today.getTime() < SOON_DAYS * DAY_MS,
  );
  const filling = racks.find(({ id, present }) => id === soon?.rackId && present);
  if (soon?.full && filling)
    return {
      needs: true,
      sentence: `${filling.name} may be full on ${day(soon.full.early)}: make room there, or add a rack.`,
      plan: mending('room', filling),
    };
  return { needs: false, sentence: 'Nothing needs you down here. Every rack has room.' };
}
