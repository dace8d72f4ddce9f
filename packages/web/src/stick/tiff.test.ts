import sharp, { type TiffOptions } from 'sharp';
import { beforeAll, describe, expect, test, vi } from 'vitest';
import { isTiff, pointsOfTiff } from './tiff.js';

// What decodes says how it gets on.
beforeAll(() => void vi.spyOn(console, 'log').mockReturnValue());

const WIDTH = 90;
const HEIGHT = 40;

/** A picture with a dark corner and a slope, so that no two ways of laying it are alike. */
const picture = () => {
  const rgb = new Uint8Array(WIDTH * HEIGHT * 3);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      rgb.set(x < 20 && y < 10 ? [9, 9, 9] : [90 + x, 200 - y, 2 * x], (y * WIDTH + x) * 3);
  return sharp(rgb, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } });
};

const ways: [string, TiffOptions, number][] = [
  ['as it is', { compression: 'none' }, 0],
  ['packed by runs', { compression: 'packbits' }, 0],
  ['packed by LZW', { compression: 'lzw' }, 0],
  ['deflated', { compression: 'deflate', predictor: 'horizontal' }, 0],
  ['in tiles', { compression: 'lzw', tile: true, tileWidth: 32, tileHeight: 32 }, 0],
  ['as a photograph', { compression: 'jpeg', quality: 95 }, 12],
];

describe('a TIFF is decoded as another program decodes it', () => {
  test.each(ways)('%s', async (_, options, apart) => {
    const written = await picture().tiff(options).toBuffer();
    expect(isTiff(written)).toBe(true);
    const { width, height, rgba, orientation } = pointsOfTiff(written);
    expect([width, height, orientation]).toEqual([WIDTH, HEIGHT, 1]);
    const judged = await sharp(written).ensureAlpha().raw().toBuffer();
    const most = judged.reduce(
      (far, byte, at) => Math.max(far, Math.abs(byte - (rgba[at] ?? 0))),
      0,
    );
    expect(most).toBeLessThanOrEqual(apart);
  });

  test('a page of a scanner, in black and white, by what faxes use', async () => {
    const written = await picture()
      .greyscale()
      .threshold(120)
      .toColourspace('b-w')
      .tiff({ compression: 'ccittfax4', bitdepth: 1 })
      .toBuffer();
    const { rgba } = pointsOfTiff(written);
    const judged = await sharp(written).toColourspace('b-w').raw().toBuffer();
    expect(judged.filter((grey, at) => grey !== rgba[at * 4])).toHaveLength(0);
  });

  test('where its top is, is told', async () => {
    const written = await picture().withMetadata({ orientation: 6 }).tiff().toBuffer();
    expect(pointsOfTiff(written).orientation).toBe(6);
  });
});

describe('what is damaged or hostile', () => {
  test('ends early, or says that it is larger than anything', async () => {
    const written = await picture().tiff({ compression: 'lzw' }).toBuffer();
    expect(isTiff(Buffer.from('II but no more'))).toBe(false);
    expect(() => pointsOfTiff(written.subarray(0, 8))).toThrow();
    const width = written.readUInt32LE(4) + 2;
    const at = Array.from({ length: 12 }, (_, i) => width + i * 12).find(
      (entry) => written.readUInt16LE(entry) === 256,
    );
    const huge = Buffer.from(written);
    huge.writeUInt16LE(4, (at ?? 0) + 2);
    huge.writeUInt32LE(4_000_000_000, (at ?? 0) + 8);
    expect(() => pointsOfTiff(huge)).toThrow('no picture of a size');
  });
});
