import { z } from 'zod';

/** What sort of place a rack is: it says whether its absence is news, and how it is found again. */
export const rackKinds = ['fixed', 'drive', 'share', 'box', 'objects'] as const;
export const rackKindSchema = z.enum(rackKinds);
export type RackKind = z.infer<typeof rackKindSchema>;

export const rackKindNames: Record<RackKind, string> = {
  fixed: 'Fixed disk',
  drive: 'Drive that comes and goes',
  share: 'Share of the shop network',
  box: 'Box on the network, over SFTP',
  objects: 'Object storage',
};

/** Whether people carry it about: it is found by its own mark wherever it is mounted, and being away is nothing special. */
export const isCarried = (kind: RackKind): boolean => kind === 'drive';

/** What a rack's label shows as bars: digits only, and never a ticket's number, which is longer. */
const FIRST_CODE = 90_000;
export const rackCode = (number: number): string => String(FIRST_CODE + number);

/** The number of the rack that a scanned label belongs to; null where it is no rack's. */
export function rackNumberOf(scanned: string): number | null {
  const number = /^\d{5,6}$/.test(scanned) ? Number(scanned) - FIRST_CODE : 0;
  return number > 0 ? number : null;
}
