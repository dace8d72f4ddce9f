import { recoverArchive, withdrawEscrow, type ArchiveFiles } from '@bright-cellar/archive';
import { archiveStateSchema, Failure, type ArchiveState, type CopyId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { Database } from '../database/connect.js';
import { archives, copies, copyChanges } from '../database/schema.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { archiveAt } from '../racks/index.js';
import { unlooked } from './catalogue.js';
import { copyChangeSchema } from './orders.js';

/** A change of a copy that is no operation of its own: who can open it. Written down before it is decided on the medium. */
const keptChangeSchema = copyChangeSchema.extend({ state: archiveStateSchema });
export type CopyChange = z.infer<typeof keptChangeSchema>;
const VERSION = 1;

/** A copy's files, where they are now. @throws Failure `not-found`, `rack-not-here`, `archive-not-here` */
export async function copyFiles(db: Database, copyId: CopyId): Promise<ArchiveFiles> {
  const [copy] = await db.select().from(copies).where(eq(copies.id, copyId));
  if (!copy) throw new Failure('not-found');
  const files = await archiveAt(db, copy);
  if ((await files.work()).isNew) throw new Failure('archive-not-here');
  return files;
}

/**
 * Changes a copy and records it. Cut off at any moment, {@link recoverCopyChanges} finds out from the medium whether it
 * happened, and records it or forgets it.
 * @param commit makes the change, and calls back when all is on the medium and nothing has been decided
 */
export async function changeCopy(
  acting: Acting,
  copyId: CopyId,
  change: Omit<CopyChange, 'state'>,
  commit: (beforeDeciding: (state: ArchiveState) => Promise<void>) => Promise<unknown>,
): Promise<void> {
  const decided: CopyChange[] = [];
  await commit(async (state) => {
    const whole = { ...change, state };
    const kept = { version: VERSION, value: whole };
    await acting.db
      .insert(copyChanges)
      .values({ copyId, change: kept })
      .onDuplicateKeyUpdate({ set: { change: kept } });
    decided.push(whole);
  });
  for (const whole of decided) await recordChange(acting, copyId, whole);
}

async function recordChange(acting: Acting, copyId: CopyId, change: CopyChange): Promise<void> {
  await unitOfWork(acting, async (unit) => {
    const { tx } = unit;
    const [copy] = await tx.select().from(copies).where(eq(copies.id, copyId));
    if (!copy) return;
    const { manifestDigest: digest, payloadBytes: storedBytes, generation } = change.state;
    await tx
      .update(copies)
      .set({ digest, storedBytes, generation, ...unlooked })
      .where(eq(copies.id, copyId));
    await tx.update(archives).set(change.archive).where(eq(archives.id, copy.archiveId));
    unit.note(change.audit);
    unit.changed('archive', copy.archiveId);
    await tx.delete(copyChanges).where(eq(copyChanges.copyId, copyId));
  });
}

/** After a crash: what was being changed is recorded where it happened. What lies on a rack that is away waits for it. */
export async function recoverCopyChanges(acting: Acting): Promise<void> {
  const { db } = acting;
  for (const { copyId, change: kept } of await db.select().from(copyChanges)) {
    try {
      const change = keptChangeSchema.parse(kept.value);
      const { digest } = await recoverArchive(await copyFiles(db, copyId));
      if (digest === change.state.manifestDigest) await recordChange(acting, copyId, change);
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
export async function withdrawFromCopy(acting: Acting, copyId: CopyId): Promise<void> {
  const files = await copyFiles(acting.db, copyId);
  const withdrawn = await withdrawEscrow(files);
  const { digest } = await recoverArchive(files);
  await unitOfWork(acting, async (unit) => {
    const { tx } = unit;
    const [copy] = await tx
      .select({ archive: archives })
      .from(copies)
      .innerJoin(archives, eq(archives.id, copies.archiveId))
      .where(eq(copies.id, copyId));
    await tx
      .update(copies)
      .set({
        digest,
        ...unlooked,
        escrowOwed: false,
        ...(withdrawn ? { storedBytes: withdrawn.payloadBytes } : {}),
      })
      .where(eq(copies.id, copyId));
    if (copy) unit.changed('archive', copy.archive.id);
    unit.note({
      technicianId: null,
      ticketId: copy?.archive.ticketId ?? null,
      action: 'escrow-withdrawn',
      what: 'The key of the shop’s escrow was taken out of a copy of the archive.',
    });
  });
}
