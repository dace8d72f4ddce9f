import { Failure } from '@bright-cellar/core';
import type { Database } from '../database/connect.js';
import { shopLogo } from '../database/schema.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { readSettings } from './settings.js';

/** There is one row. */
const ID = 1;
/** Four times as sharp as a screen, at the size that it has on a paper. */
const MOST = { width: 800, height: 400 };
/** A picture may say that it is as large as it likes. */
const PIXELS_MOST = 50e6;
const FORMATS: ReadonlySet<string | undefined> = new Set(['png', 'jpeg', 'webp']);

/** The shop as it stands on its papers, its logo as PNG. */
export async function shopOnPaper(db: Pick<Database, 'select'>) {
  const [{ shop }, png] = await Promise.all([readSettings(db), readLogo(db)]);
  return { ...shop, logo: png === null ? null : Buffer.from(png, 'base64') };
}

/** PNG, base64; null where the shop has none. */
export async function readLogo(db: Pick<Database, 'select'>): Promise<string | null> {
  const [row] = await db.select({ png: shopLogo.png }).from(shopLogo);
  return row?.png ?? null;
}

/**
 * Takes any picture that is one, drawn anew: nothing that came with it stays.
 * @param image PNG, JPEG or WebP, base64
 * @throws Failure `input-not-valid`
 */
export async function giveLogo(acting: Acting, image: string): Promise<void> {
  const png = (await drawnAnew(Buffer.from(image, 'base64'))).toString('base64');
  await unitOfWork(acting, async (unit) => {
    await unit.tx.insert(shopLogo).values({ id: ID, png }).onDuplicateKeyUpdate({ set: { png } });
    unit.note({ action: 'settings-changed', what: 'The shop’s logo was changed.' });
    unit.changed('settings');
  });
}

export async function dropLogo(acting: Acting): Promise<void> {
  await unitOfWork(acting, async (unit) => {
    await unit.tx.delete(shopLogo);
    unit.note({ action: 'settings-changed', what: 'The shop’s logo was taken away.' });
    unit.changed('settings');
  });
}

async function drawnAnew(image: Buffer): Promise<Buffer> {
  try {
    // Loading it takes long, and it is needed once in the life of a shop.
    const { default: sharp } = await import('sharp');
    const picture = sharp(image, { limitInputPixels: PIXELS_MOST, failOn: 'error' });
    if (!FORMATS.has((await picture.metadata()).format)) throw new Error('another format');
    return await picture
      .rotate()
      .resize({ ...MOST, fit: 'inside', withoutEnlargement: true })
      .png({ compressionLevel: 9 })
      .toBuffer();
  } catch (cause) {
    throw new Failure(
      'input-not-valid',
      {
        what: 'That is no picture that can be read.',
        safe: 'The papers are as they were.',
        next: 'Choose a PNG, JPEG or WebP of at most 50 megapixels.',
      },
      { cause },
    );
  }
}
