import { wrap } from 'comlink';
import { Failure } from '@bright-cellar/core';
import { isTiff, type Points } from './tiff.js';
import TiffWorker from './tiff.worker.ts?worker&inline';
import type { TiffDecoding } from './tiff.worker.js';

/** What is still not decoded by then never will be. */
const DECODED_WITHIN_MS = 20_000;

/**
 * A picture decoded and drawn anew: what a device says is a picture is shown as nothing else.
 * @param pixels at most so many wide and high
 * @throws Failure `input-not-valid`
 */
export async function drawn(contents: Uint8Array, pixels: number): Promise<Blob> {
  let whole: ImageBitmap;
  try {
    whole = isTiff(contents)
      ? await ofTiff(contents)
      : await createImageBitmap(new Blob([contents as BlobPart]));
  } catch (cause) {
    throw new Failure('input-not-valid', { what: 'That picture cannot be drawn.' }, { cause });
  }
  const scale = Math.min(1, pixels / Math.max(whole.width, whole.height));
  const [canvas, context] = sheet(
    Math.max(1, Math.round(whole.width * scale)),
    Math.max(1, Math.round(whole.height * scale)),
  );
  context.imageSmoothingQuality = 'high';
  context.drawImage(whole, 0, 0, canvas.width, canvas.height);
  whole.close();
  return canvas.convertToBlob({ type: 'image/webp', quality: 0.85 });
}

/** Browsers do not draw these themselves, most of them. @throws Error */
async function ofTiff(contents: Uint8Array): Promise<ImageBitmap> {
  const points = await pointsOf(contents);
  const { width, height, rgba, orientation } = points;
  const lying = await createImageBitmap(new ImageData(rgba, width, height));
  if (orientation === 1) return lying;
  const isOnItsSide = orientation > 4;
  const [canvas, context] = sheet(isOnItsSide ? height : width, isOnItsSide ? width : height);
  context.setTransform(...upright(points));
  context.drawImage(lying, 0, 0);
  lying.close();
  return canvas.transferToImageBitmap();
}

/** What brings the points of a picture to where they belong, by where its top is. */
function upright({ orientation, width: w, height: h }: Points) {
  const ways: Record<number, [number, number, number, number, number, number]> = {
    2: [-1, 0, 0, 1, w, 0],
    3: [-1, 0, 0, -1, w, h],
    4: [1, 0, 0, -1, 0, h],
    5: [0, 1, 1, 0, 0, 0],
    6: [0, 1, -1, 0, h, 0],
    7: [0, -1, -1, 0, h, w],
    8: [0, -1, 1, 0, 0, w],
  };
  return ways[orientation] ?? ([1, 0, 0, 1, 0, 0] as const);
}

/** In a worker of its own, which is ended whatever comes of it. @throws Error */
async function pointsOf(contents: Uint8Array): Promise<Points> {
  const worker = new TiffWorker();
  let ringing: ReturnType<typeof setTimeout> | undefined;
  try {
    const points = await Promise.race([
      wrap<TiffDecoding>(worker).points(contents),
      new Promise<null>((resolve) => {
        ringing = setTimeout(() => resolve(null), DECODED_WITHIN_MS);
      }),
    ]);
    if (!points) throw new Error('not decoded');
    return points;
  } finally {
    clearTimeout(ringing);
    worker.terminate();
  }
}

function sheet(
  width: number,
  height: number,
): [OffscreenCanvas, OffscreenCanvasRenderingContext2D] {
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d');
  if (!context) throw new Failure('unexpected');
  return [canvas, context];
}
