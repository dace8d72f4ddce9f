import {
  copySpeeds,
  defaultNamePattern,
  proofAges,
  updatePolicies,
  type UpdatePolicy,
} from '@bright-cellar/core';
import { shopSettingsSchema, type ShopSettings } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { settings } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';

const usual: ShopSettings = {
  namePattern: defaultNamePattern,
  updatePolicy: updatePolicies[0] satisfies UpdatePolicy,
  proofAge: proofAges[1],
  copySpeed: copySpeeds[0],
};

/** What the shop decided once for everybody; what it has not decided is as usual. */
export async function readSettings(db: Database): Promise<ShopSettings> {
  const rows = await db.select().from(settings);
  return shopSettingsSchema.parse({
    ...usual,
    ...Object.fromEntries(rows.map(({ name, value }) => [name, value])),
  });
}

export async function saveSettings(context: Context, wanted: ShopSettings): Promise<void> {
  await unitOfWork(context, async (unit) => {
    for (const [name, value] of Object.entries(wanted)) {
      await unit.tx
        .insert(settings)
        .values({ name, value })
        .onDuplicateKeyUpdate({ set: { value } });
    }
    unit.note({ action: 'settings-changed', what: 'The shop’s settings were changed.' });
    unit.changed('settings');
  });
}
