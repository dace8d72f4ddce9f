/** What a try of a place found. Bytes, and bytes a second. */
export interface Tried {
  free: number;
  writeRate: number;
  readRate: number;
  /** What was read back is what was written. */
  isSound: boolean;
  /** It keeps the first of two who write the same. */
  keepsFirst: boolean;
}

/** What comes over a good cable: ninety gigabytes in an hour. */
export const CABLE_RATE = 25e6;
/** A phone’s backup as they mostly are. */
const USUAL_BYTES = 64e9;
/** Stays free on a rack that is large enough. */
const USUAL_RESERVE = 20e9;
/** Of a small one, no more than one part of so many. */
const RESERVE_PART = 20;

/** What is proposed to stay free on a rack whatever is planned. @param capacity bytes @returns bytes, whole gigabytes */
export const usualReserve = (capacity: number): number =>
  Math.min(USUAL_RESERVE, Math.round(capacity / RESERVE_PART / 1e9) * 1e9);

/** More devices at once are not on a bench. */
const MOST_AT_ONCE = 6;

/** In sentences, what a place is good for and what it is not. @param isNear this computer has it mounted */
export function goodFor(
  { free, writeRate, isSound, keepsFirst }: Tried,
  isNear = true,
): {
  fit: boolean;
  sentences: string[];
} {
  if (!isSound) {
    return {
      fit: false,
      sentences: [
        'What was read back is not what was written: nothing may be kept here. Replace the drive.',
      ],
    };
  }
  const sentences = [isNear ? rateWords(writeRate) : FAR];
  const devices = Math.floor(free / USUAL_BYTES);
  sentences.push(
    devices > 0
      ? `Room for about ${devices} ${devices === 1 ? 'backup' : 'backups'} of 64 GB.`
      : 'Not room for one backup of 64 GB: good for small devices, and to carry something away.',
  );
  if (!keepsFirst) {
    sentences.push('It does not keep two computers apart: let only this one write here.');
  }
  return { fit: true, sentences };
}

const FAR =
  'Good for copies, and for what is kept long or off the premises. A backup goes onto a disk of this computer first.';

function rateWords(writeRate: number): string {
  const atOnce = Math.min(MOST_AT_ONCE, Math.floor(writeRate / CABLE_RATE));
  if (atOnce === 0) {
    return 'Good for copies and for what is kept long: a backup straight from a good cable would wait for it.';
  }
  return atOnce === 1
    ? 'Good for the backup of one device at a time, and for copies.'
    : `Good for the backups of ${atOnce} devices at once, and for copies.`;
}
