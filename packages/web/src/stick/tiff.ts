import { decode, decodeImage, toRGBA8 } from 'utif2';

/** A picture as its points, before it is turned upright. */
export interface Points {
  width: number;
  height: number;
  /** Red, green, blue and how opaque, a byte each. */
  rgba: Uint8ClampedArray<ArrayBuffer>;
  /** Where its top is: 1 to 8 (TIFF 6.0, Orientation; Exif 2.32 says the same). */
  orientation: number;
}

const ORIENTATION = 't274';
const WIDTH = 't256';
const HEIGHT = 't257';
/** As much as any scanner gives; each takes four bytes, twice. */
const MOST_POINTS = 120_000_000;

/** By its first bytes (TIFF 6.0, section 2). */
export function isTiff(contents: Uint8Array): boolean {
  const [a, b, c, d] = contents;
  return (
    (a === 0x49 && b === 0x49 && c === 42 && d === 0) ||
    (a === 0x4d && b === 0x4d && c === 0 && d === 42)
  );
}

/**
 * The largest picture in a TIFF. What decodes it may never end on what is hostile: whoever calls this can stop it.
 * @throws Error where nothing can be drawn
 */
export function pointsOfTiff(contents: Uint8Array): Points {
  const file = new Uint8Array(contents).buffer;
  const size = (picture: ReturnType<typeof decode>[number]) =>
    numberOf(picture[WIDTH]) * numberOf(picture[HEIGHT]);
  const [largest] = decode(file).sort((one, other) => size(other) - size(one));
  if (!largest || size(largest) < 1 || size(largest) > MOST_POINTS)
    throw new Error('no picture of a size that can be drawn');
  decodeImage(file, largest);
  const { width, height } = largest;
  const points = toRGBA8(largest);
  if (points.length !== width * height * 4) throw new Error('less than a picture');
  const orientation = numberOf(largest[ORIENTATION]) || 1;
  return { width, height, rgba: new Uint8ClampedArray(points), orientation };
}

const numberOf = (field: unknown): number => Number(Array.isArray(field) ? field[0] : 0) || 0;
