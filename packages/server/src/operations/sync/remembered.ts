import { createHash, randomUUID } from 'node:crypto';
import { gunzipSync, gzipSync } from 'node:zlib';
import type { PartnerSite, SyncedKind } from '@bright-cellar/core';
import type { MergedRecords, Remembered } from '@bright-cellar/core/merge';
import { and, eq } from 'drizzle-orm';
import type { Database } from '../../database/connect.js';
import { syncStates } from '../../database/schema.js';
import { openSecret, sealSecret } from '../../kernel/installation.js';

type Pairs = Remembered<MergedRecords[SyncedKind]>[];

/** Tells one customer's server from all others, and nothing of it. */
const partnerKey = ({ address, user }: PartnerSite): string =>
  createHash('sha256')
    .update(`${address.replace(/\/+$/, '').toLowerCase()}\n${user}`)
    .digest('hex');

/** What two sides held when they were last in step: all of it is the customer's, and is kept sealed under the installation's key. */
export async function rememberedOf(
  db: Database,
  serial: string,
  site: PartnerSite,
  kind: SyncedKind,
): Promise<Pairs> {
  const [row] = await db
    .select({ sealed: syncStates.sealed })
    .from(syncStates)
    .where(
      and(
        eq(syncStates.serial, serial),
        eq(syncStates.partner, partnerKey(site)),
        eq(syncStates.kind, kind),
      ),
    );
  if (!row) return [];
  const packed = Buffer.from(openSecret(row.sealed), 'base64');
  return JSON.parse(gunzipSync(packed).toString('utf8')) as Pairs;
}

export async function remember(
  db: Database,
  serial: string,
  site: PartnerSite,
  kind: SyncedKind,
  pairs: Pairs,
  now: Date,
): Promise<void> {
  const sealed = sealSecret(gzipSync(JSON.stringify(pairs)).toString('base64'));
  await db
    .insert(syncStates)
    .values({ id: randomUUID(), serial, partner: partnerKey(site), kind, sealed, updatedAt: now })
    .onDuplicateKeyUpdate({ set: { sealed, updatedAt: now } });
}
