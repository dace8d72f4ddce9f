import sharp from 'sharp';
import { expect, test } from 'vitest';
import { drawSheet } from '../paper/index.js';
import { testCatalogue } from '../testing/catalogue.js';
import { dropLogo, giveLogo, readLogo, shopOnPaper } from './logo.js';

const { db, acting } = await testCatalogue();

const picture = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#884422' } });
const give = (image: Buffer) => giveLogo(acting, image.toString('base64'));
const sheet = async () =>
  (
    await drawSheet({ shop: await shopOnPaper(db), title: 'T', under: 'U', foot: 'F' }, [])
  ).toString('latin1');

test('a picture stands on the papers, drawn anew: no larger than it is needed, with nothing else that was in the file', async () => {
  expect(await sheet()).not.toContain('/Subtype /Image');
  const where = { IFD0: { Copyright: 'taken at home' } };
  await give(await picture(1600, 200).withExif(where).jpeg().toBuffer());
  const kept = Buffer.from((await readLogo(db)) ?? '', 'base64');
  expect(await sharp(kept).metadata()).toMatchObject({ format: 'png', width: 800, height: 100 });
  expect(kept.toString('latin1')).not.toContain('taken at home');
  expect(await sheet()).toContain('/Subtype /Image');
  await give(await picture(40, 90).webp().toBuffer());
  expect(await sharp(Buffer.from((await readLogo(db)) ?? '', 'base64')).metadata()).toMatchObject({
    ...{ width: 40, height: 90 },
  });
  await dropLogo(acting);
  expect(await readLogo(db)).toBeNull();
});

test('what is no picture, another kind of one, or too large, is refused, and the one before stays', async () => {
  await give(await picture(20, 20).png().toBuffer());
  const before = await readLogo(db);
  const whole = await picture(400, 400).png().toBuffer();
  const svg = '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect/></svg>';
  // What it says of itself is enough: nothing of that size is drawn.
  const huge = Buffer.from(whole);
  huge.writeUInt32BE(60_000, 16);
  huge.writeUInt32BE(60_000, 20);
  for (const bad of [
    Buffer.from('text'),
    Buffer.alloc(0),
    Buffer.from(svg),
    huge,
    whole.subarray(0, 200),
  ])
    await expect(give(bad)).rejects.toThrow('no picture');
  expect(await readLogo(db)).toBe(before);
});
