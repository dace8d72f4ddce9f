import { expose, transfer } from 'comlink';
import { pointsOfTiff, type Points } from './tiff.js';

// What decodes says how it gets on to whoever opens the console.
Object.assign(console, { log: () => undefined });

/** Decodes one picture, apart from everything else: it is ended when that takes too long. */
const decoding = {
  /** Null for what cannot be drawn. */
  points(contents: Uint8Array): Points | null {
    try {
      const points = pointsOfTiff(contents);
      return transfer(points, [points.rgba.buffer]);
    } catch {
      return null;
    }
  },
};
export type TiffDecoding = typeof decoding;

expose(decoding);
