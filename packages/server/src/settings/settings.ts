import {
  copyCounts,
  copySpeeds,
  defaultNamePattern,
  proofAges,
  updatePolicies,
  usualBenchRules,
  usualLooking,
  usualSignIn,
  type UpdatePolicy,
} from '@bright-cellar/core';
import { shopSettingsSchema, type ShopSettings } from '@bright-cellar/contract';
import { eq } from 'drizzle-orm';
import { z } from 'zod';
import type { Database } from '../database/connect.js';
import { sessions, settings, technicians, trustedComputers } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';

const usual: ShopSettings = {
  shop: { name: 'The shop', address: '' },
  namePattern: defaultNamePattern,
  updatePolicy: updatePolicies[0] satisfies UpdatePolicy,
  proofAge: proofAges[1],
  copySpeed: copySpeeds[0],
  signIn: usualSignIn,
  looking: usualLooking,
  bench: usualBenchRules,
  care: {
    copies: copyCounts[0],
    offPremises: false,
    checkEvery: '90',
    // Nobody is in the shop, and the day’s last backups are done.
    quietHours: { from: 22 * 60, to: 6 * 60 },
    copiesByThemselves: true,
  },
  disposal: { forgetsNames: false, forgetAfter: '0' },
};

/** What the shop decided once for everybody; what it has not decided is as usual. */
export async function readSettings(db: Pick<Database, 'select'>): Promise<ShopSettings> {
  const rows = await db.select().from(settings);
  return shopSettingsSchema.parse({
    ...usual,
    ...Object.fromEntries(rows.map(({ name, value }) => [name, value])),
  });
}

/** Decides one thing, before anybody is there to decide more. */
export async function begin<Name extends keyof ShopSettings>(
  tx: Pick<Database, 'insert'>,
  name: Name,
  value: ShopSettings[Name],
): Promise<void> {
  await tx.insert(settings).values({ name, value }).onDuplicateKeyUpdate({ set: { value } });
}

/** Where drives and shares appear when they are mounted. */
export const drivePlaces = async (db: Pick<Database, 'select'>): Promise<readonly string[]> =>
  (await readSettings(db)).bench.places;

/** Who decided last: work that the house rules ask for is done in their name. */
const DECIDED_BY = 'decided-by';

/** In whose name the house rules are carried out: who decided them last, or else whoever was in the shop first. */
export async function whoDecided(db: Database): Promise<string | null> {
  const [row] = await db.select().from(settings).where(eq(settings.name, DECIDED_BY));
  const known = z.uuid().safeParse(row?.value).data;
  if (known) return known;
  const [first] = await db
    .select({ id: technicians.id })
    .from(technicians)
    .orderBy(technicians.createdAt)
    .limit(1);
  return first?.id ?? null;
}

const RESTORED = 'restored';
const restoredSchema = z.object({ savedAt: z.iso.datetime(), at: z.iso.datetime() });

/** From which save this catalogue was brought back, and when; null where it never was. */
export async function restoredFrom(db: Pick<Database, 'select'>) {
  const [row] = await db.select().from(settings).where(eq(settings.name, RESTORED));
  return restoredSchema.safeParse(row?.value).data ?? null;
}

/** Racks may have moved on since: that is remembered, and asked of them. Who was signed in then is not now. */
export async function noteRestored(
  tx: Pick<Database, 'insert' | 'delete'>,
  savedAt: string,
  now: Date,
) {
  const value: z.infer<typeof restoredSchema> = { savedAt, at: now.toISOString() };
  await tx
    .insert(settings)
    .values({ name: RESTORED, value })
    .onDuplicateKeyUpdate({ set: { value } });
  await tx.delete(sessions);
  await tx.delete(trustedComputers);
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
    await unit.tx
      .insert(settings)
      .values({ name: DECIDED_BY, value: context.actor.technicianId })
      .onDuplicateKeyUpdate({ set: { value: context.actor.technicianId } });
    unit.changed('settings');
  });
}
