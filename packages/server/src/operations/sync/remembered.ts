import { randomUUID } from 'node:crypto';
import { gunzipSync, gzipSync } from 'node:zlib';
import type { SyncedKind } from '@bright-cellar/core';
import type { MergedRecords, Remembered, SideName } from '@bright-cellar/core/merge';
import { and, eq } from 'drizzle-orm';
import type { Database } from '../../database/connect.js';
import { syncSnapshots, syncStates } from '../../database/schema.js';
import { openSecret, sealSecret } from '../../kernel/installation.js';

export type Pairs = Remembered<MergedRecords[SyncedKind]>[];

/** All of it is the customer's: it is kept sealed under the installation's key. */
const sealed = (what: unknown): string =>
  sealSecret(gzipSync(JSON.stringify(what)).toString('base64'));
const unsealed = (text: string): unknown =>
  JSON.parse(gunzipSync(Buffer.from(openSecret(text), 'base64')).toString('utf8'));

/** What two sides held when they were last in step. @param mark of the other side */
export async function rememberedOf(
  db: Database,
  serial: string,
  mark: string,
  kind: SyncedKind,
): Promise<Pairs> {
  const [row] = await db
    .select({ sealed: syncStates.sealed })
    .from(syncStates)
    .where(
      and(eq(syncStates.serial, serial), eq(syncStates.partner, mark), eq(syncStates.kind, kind)),
    );
  return row ? (unsealed(row.sealed) as Pairs) : [];
}

export async function remember(
  db: Database,
  serial: string,
  mark: string,
  kind: SyncedKind,
  pairs: Pairs,
  now: Date,
): Promise<void> {
  const text = sealed(pairs);
  await db
    .insert(syncStates)
    .values({
      ...{ id: randomUUID(), serial, partner: mark, kind, sealed: text },
      updatedAt: now,
    })
    .onDuplicateKeyUpdate({ set: { sealed: text, updatedAt: now } });
}

/** A file that was written. */
export interface Touched {
  side: SideName;
  kind: SyncedKind;
  id: string;
  /** SHA-256 of what it was then read back as, hexadecimal; null where it was removed. */
  after: string | null;
}

/** How both sides were before they were written. */
export interface Snapshot {
  kinds: {
    kind: SyncedKind;
    remembered: Pairs;
    /** Every file that each side had, base64, by what it is called there. */
    files: Record<SideName, [id: string, contents: string][]>;
  }[];
  /** What was written since, as far as it was read back. */
  touched: Touched[];
}

/** Keeps how both were, in the place of what was kept before. */
export async function keepSnapshot(
  db: Database,
  serial: string,
  mark: string,
  snapshot: Snapshot,
  now: Date,
): Promise<void> {
  const text = sealed(snapshot);
  await db
    .insert(syncSnapshots)
    .values({
      ...{ id: randomUUID(), serial, partner: mark, sealed: text },
      takenAt: now,
    })
    .onDuplicateKeyUpdate({ set: { sealed: text, takenAt: now } });
}

const lastOf = (serial: string, mark: string) =>
  and(eq(syncSnapshots.serial, serial), eq(syncSnapshots.partner, mark));

/** How both were before they were last written; null where they never were, or that was taken back. */
export async function snapshotOf(
  db: Database,
  serial: string,
  mark: string,
): Promise<Snapshot | null> {
  const [row] = await db
    .select({ sealed: syncSnapshots.sealed })
    .from(syncSnapshots)
    .where(lastOf(serial, mark));
  return row ? (unsealed(row.sealed) as Snapshot) : null;
}

export async function dropSnapshot(db: Database, serial: string, mark: string): Promise<void> {
  await db.delete(syncSnapshots).where(lastOf(serial, mark));
}
