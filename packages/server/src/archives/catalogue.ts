import { randomUUID } from 'node:crypto';
import {
  type CommittedBackup,
  copyIdSchema,
  type ArchiveId,
  type BackupId,
  type CopyId,
  type RackId,
} from '@bright-cellar/core';
import { and, eq, inArray } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { archives, backups, copies, goneCopies, looks } from '../database/schema.js';
import type { Unit } from '../kernel/unit-of-work.js';
import { refreshRacks } from './rows.js';

/** What the catalogue keeps of a backup beside what the archive says of it. */
type BackupFacts = Omit<
  typeof backups.$inferInsert,
  'id' | 'archiveId' | 'generation' | 'takenAt' | 'digest' | 'listDigest' | keyof CommittedAmounts
>;
type CommittedAmounts = Pick<
  CommittedBackup,
  'items' | 'bytes' | 'storedBytes' | 'newItems' | 'newBytes'
>;

export const amountsOf = ({ items, bytes, storedBytes, newItems, newBytes }: CommittedAmounts) => ({
  items,
  bytes,
  storedBytes,
  newItems,
  newBytes,
});

/** Puts a new archive and its only copy into the catalogue. */
export async function recordArchive(
  db: Database | Transaction,
  committed: CommittedBackup,
  archive: Omit<typeof archives.$inferInsert, 'id'>,
  place: { rackId: RackId; folder: string },
): Promise<void> {
  const { createdAt } = archive;
  await db.insert(archives).values({ ...archive, id: committed.archive });
  await db.insert(copies).values({
    ...place,
    id: copyIdSchema.parse(randomUUID()),
    archiveId: committed.archive,
    ...stateOf(committed),
    createdAt,
  });
}

/** Nobody has looked at a copy since it changed. */
export const unlooked = { state: 'unknown', checkedAt: null, checkedLevel: null } as const;

const stateOf = ({ payloadBytes, generation, manifestDigest }: CommittedBackup) => ({
  ...unlooked,
  storedBytes: payloadBytes,
  generation,
  digest: manifestDigest,
});

/** Says what a copy is now that a backup has come into it. */
export async function recordGrowth(
  tx: Transaction,
  committed: CommittedBackup,
  copy: { id: CopyId } | { rackId: RackId },
): Promise<void> {
  const which = 'id' in copy ? eq(copies.id, copy.id) : eq(copies.rackId, copy.rackId);
  await tx
    .update(copies)
    .set(stateOf(committed))
    .where(and(which, eq(copies.archiveId, committed.archive)));
}

interface CopyMade {
  archiveId: ArchiveId;
  rackId: RackId;
  folder: string;
  /** Whether the shop's escrow could open what was copied, when that began. */
  hasEscrow: boolean;
}

/** Puts a copy that was read back into the catalogue, or what it has become. */
export async function recordCopy(
  unit: Unit,
  { archiveId, rackId, folder, hasEscrow }: CopyMade,
  state: { generation: number; digest: string; storedBytes: number },
  readBack: { operationId: string; startedBy: string; readBytes: number; durationMs: number },
): Promise<void> {
  const { tx, now } = unit;
  const [archive] = await tx
    .select({ escrow: archives.escrow })
    .from(archives)
    .where(eq(archives.id, archiveId));
  // The customer may have taken their consent back meanwhile.
  const escrowOwed = hasEscrow && archive?.escrow === false;
  const looked = { state: 'whole', checkedAt: now, checkedLevel: 'bytes', escrowOwed } as const;
  const [known] = await tx
    .select({ id: copies.id })
    .from(copies)
    .where(and(eq(copies.archiveId, archiveId), eq(copies.rackId, rackId)))
    .for('update');
  const copyId = known?.id ?? copyIdSchema.parse(randomUUID());
  if (known) {
    await tx
      .update(copies)
      .set({ ...state, ...looked, folder })
      .where(eq(copies.id, known.id));
  } else {
    const createdAt = now;
    await tx
      .insert(copies)
      .values({ ...state, ...looked, id: copyId, archiveId, rackId, folder, createdAt });
  }
  const { startedBy, ...read } = readBack;
  await tx.insert(looks).values({
    ...{ ...read, id: randomUUID(), copyId, rackId, at: now, by: startedBy },
    ...{ level: 'bytes', outcome: 'whole', what: 'What was sent here was read back and compared.' },
  });
  unit.changed('archive', archiveId);
}

/** Says what a copy is now that backups were taken out of it, and which those are. */
export async function recordPruning(
  unit: Unit,
  copy: { id: CopyId; archiveId: ArchiveId },
  state: { generation: number; digest: string; storedBytes: number },
  gone: readonly BackupId[],
): Promise<void> {
  await unit.tx
    .update(copies)
    .set({ ...state, ...unlooked })
    .where(eq(copies.id, copy.id));
  await unit.tx
    .update(backups)
    .set({ prunedIn: state.generation })
    .where(inArray(backups.id, [...gone]));
  unit.changed('archive', copy.archiveId);
}

/**
 * A copy is about to be removed: from here on nothing is known of it, until a look says otherwise or it is gone. Cut off in
 * the middle, nobody counts on it, and no proof of it stands.
 */
export async function recordLeaving(
  unit: Unit,
  { id, archiveId }: { id: CopyId; archiveId: ArchiveId },
): Promise<void> {
  await unit.tx
    .update(copies)
    .set({ ...unlooked, generation: 0 })
    .where(eq(copies.id, id));
  unit.changed('archive', archiveId);
}

/** Takes a copy that is gone from its rack out of the catalogue; that it was there stays known. */
export async function recordGone(
  unit: Unit,
  { id, archiveId, rackId }: { id: CopyId; archiveId: ArchiveId; rackId: RackId },
  operationId: string,
): Promise<void> {
  const { tx, now } = unit;
  const [copy] = await tx.select().from(copies).where(eq(copies.id, id)).for('update');
  if (!copy) return;
  const { storedBytes, digest, createdAt } = copy;
  await tx.insert(goneCopies).values({
    ...{ id, archiveId, rackId, storedBytes, digest, createdAt },
    ...{ goneAt: now, operationId },
  });
  await tx.delete(copies).where(eq(copies.id, id));
  await refreshRacks(tx, [rackId]);
  unit.changed('archive', archiveId);
  unit.changed('rack', rackId);
}

export async function recordBackup(
  db: Database | Transaction,
  committed: CommittedBackup,
  facts: BackupFacts,
): Promise<void> {
  await db.insert(backups).values({
    ...facts,
    ...amountsOf(committed),
    id: committed.backup,
    archiveId: committed.archive,
    generation: committed.generation,
    takenAt: new Date(committed.takenAt),
    digest: committed.manifestDigest,
    listDigest: committed.listDigest,
  });
}
