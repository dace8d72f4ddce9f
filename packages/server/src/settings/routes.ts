import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { readSettings, saveSettings } from './settings.js';

/** The house rules. */
export function settingsRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.settings, () => readSettings(db));
  answer(routes.saveSettings, async ({ context, body }) => {
    await saveSettings(context, body);
    return readSettings(db);
  });
}
