import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { dropLogo, giveLogo, readLogo } from './logo.js';
import { readSettings, saveSettings } from './settings.js';

/** The house rules. */
export function settingsRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.settings, () => readSettings(db));
  answer(routes.saveSettings, async ({ context, body }) => {
    await saveSettings(context, body);
    return readSettings(db);
  });
  answer(routes.logo, async () => ({ png: await readLogo(db) }));
  answer(routes.giveLogo, async ({ context, body }) => {
    await giveLogo(context, body.image);
    return { png: await readLogo(db) };
  });
  answer(routes.dropLogo, async ({ context }) => {
    await dropLogo(context);
    return { png: null };
  });
}
