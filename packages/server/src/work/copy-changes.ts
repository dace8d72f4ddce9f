import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { mustBeRack, settleArchive, withdrawEscrow, type BagState } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archives, copies, copyChanges, racks } from '../database/schema.js';
import { noteAudit, type AuditAction } from '../services/audit.js';

/** A change of a copy that is no operation of its own: who can open it. Written down before it is decided on the medium. */
export interface CopyChange {
  /** What the copy will be. */
  state: BagState;
  /** What the catalogue then says of its archive. */
  archive: { passwordHolder?: string; reminder?: string; escrow?: boolean };
  audit: { technicianId: string; ticketId: string; action: AuditAction; what: string };
}

/** Where a copy is now. @throws Failure `not-found`, `rack-not-here`, `archive-not-here` */
export async function copyFolder(db: Database, copyId: string): Promise<string> {
  const [row] = await db
    .select({ copy: copies, rack: racks })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId))
    .where(eq(copies.id, copyId));
  if (!row) throw new Failure('not-found');
  mustBeRack(row.rack.path, row.rack.id);
  const folder = join(row.rack.path, row.copy.folder);
  if (!existsSync(folder)) throw new Failure('archive-not-here');
  return folder;
}

/**
 * Changes a copy and records it. Cut off at any moment, {@link settleCopyChanges} finds out from the medium whether it
 * happened, and records it or forgets it.
 * @param commit makes the change, and calls back when all is on the medium and nothing has been decided
 */
export async function changeCopy(
  db: Database,
  copyId: string,
  change: Omit<CopyChange, 'state'>,
  commit: (beforeDeciding: (state: BagState) => Promise<void>) => Promise<unknown>,
): Promise<void> {
  const decided: CopyChange[] = [];
  await commit(async (state) => {
    const whole = { ...change, state };
    await db
      .insert(copyChanges)
      .values({ copyId, change: whole })
      .onDuplicateKeyUpdate({ set: { change: whole } });
    decided.push(whole);
  });
  for (const whole of decided) await recordChange(db, copyId, whole);
}

async function recordChange(db: Database, copyId: string, change: CopyChange): Promise<void> {
  await db.transaction(async (tx) => {
    const [copy] = await tx.select().from(copies).where(eq(copies.id, copyId));
    if (!copy) return;
    const { manifestDigest: digest, payloadBytes: storedBytes, generation } = change.state;
    await tx.update(copies).set({ digest, storedBytes, generation }).where(eq(copies.id, copyId));
    if (Object.keys(change.archive).length > 0) {
      await tx.update(archives).set(change.archive).where(eq(archives.id, copy.archiveId));
    }
    await noteAudit(tx, change.audit);
    await tx.delete(copyChanges).where(eq(copyChanges.copyId, copyId));
  });
}

/** After a crash: what was being changed is recorded where it happened. What lies on a rack that is away waits for it. */
export async function settleCopyChanges(db: Database): Promise<void> {
  for (const { copyId, change } of await db.select().from(copyChanges)) {
    try {
      const { digest } = await settleArchive(await copyFolder(db, copyId));
      if (digest === change.state.manifestDigest) await recordChange(db, copyId, change);
      else await db.delete(copyChanges).where(eq(copyChanges.copyId, copyId));
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
    }
  }
}

/**
 * Takes the shop's key file out of a copy, and notes it. Can be cut off and repeated at any point: what the copy is then is
 * read from its medium.
 */
export async function withdrawFromCopy(db: Database, copyId: string): Promise<void> {
  const folder = await copyFolder(db, copyId);
  const withdrawn = await withdrawEscrow(folder);
  const { digest } = await settleArchive(folder);
  await db.transaction(async (tx) => {
    const [copy] = await tx
      .select({ archive: archives })
      .from(copies)
      .innerJoin(archives, eq(archives.id, copies.archiveId))
      .where(eq(copies.id, copyId));
    await tx
      .update(copies)
      .set({
        digest,
        escrowOwed: false,
        ...(withdrawn ? { storedBytes: withdrawn.payloadBytes } : {}),
      })
      .where(eq(copies.id, copyId));
    await noteAudit(tx, {
      technicianId: null,
      ticketId: copy?.archive.ticketId ?? null,
      action: 'escrow-withdrawn',
      what: 'The key of the shop’s escrow was taken out of a copy of the archive.',
    });
  });
}
