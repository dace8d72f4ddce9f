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

/** All that was decided, by its name, as it is kept. */
export type Decided = ReadonlyMap<string, unknown>;

/** For whoever asks for several things of it: it is one small table. */
export async function readDecided(db: Pick<Database, 'select'>): Promise<Decided> {
  const rows = await db.select().from(settings);
  return new Map(rows.map(({ name, value }) => [name, value]));
}

/** What the shop decided once for everybody; what it has not decided is as usual. */
export const readSettings = async (db: Pick<Database, 'select'>): Promise<ShopSettings> =>
  settingsIn(await readDecided(db));

export const settingsIn = (decided: Decided): ShopSettings =>
  shopSettingsSchema.parse({ ...usual, ...Object.fromEntries(decided) });

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
export const restoredFrom = (decided: Decided) =>
  restoredSchema.safeParse(decided.get(RESTORED)).data ?? null;

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
