import { randomUUID } from 'node:crypto';
import type { VerifyReport } from '@bright-cellar/archive';
import { Failure, type CopyId } from '@bright-cellar/core';
import { and, eq, gt, isNull, lte, or } from 'drizzle-orm';
import type { Database } from '../../database/connect.js';
import { backups, copies, looks, proofs } from '../../database/schema.js';
import type { Unit } from '../../kernel/unit-of-work.js';
import { damageOf, judgeCopy, wordsOf, type Judgement, type KnownCopy } from './judge-proof.js';

/** What the catalogue says of a copy: what is added to it beside a look is not judged by that. @throws Failure `not-found` */
export async function whatIsKnown(db: Database, copyId: CopyId) {
  const [copy] = await db.select().from(copies).where(eq(copies.id, copyId));
  if (!copy) throw new Failure('not-found');
  return {
    copy,
    backups: await db
      .select()
      .from(backups)
      .where(
        and(
          eq(backups.archiveId, copy.archiveId),
          lte(backups.generation, copy.generation),
          or(isNull(backups.prunedIn), gt(backups.prunedIn, copy.generation)),
        ),
      ),
  };
}

/** A sentence in the ledger is no longer. */
const WHAT_SIGNS = 400;

interface Look {
  report: VerifyReport;
  /** What the catalogue said of the copy in the state that was looked at. */
  before: KnownCopy;
  judged: readonly Judgement[];
  durationMs: number;
}

/** Writes what a look at a copy found: of the copy, of each backup in it, and into the ledger of its rack. */
export async function recordLook(
  unit: Unit,
  job: { operationId: string; startedBy: string; input: { copyId: CopyId } },
  { report, before, judged, durationMs }: Look,
): Promise<void> {
  const { tx } = unit;
  const { copyId } = job.input;
  const [copy] = await tx.select().from(copies).where(eq(copies.id, copyId)).for('update');
  if (!copy) return;
  const found = judgeCopy(report, before, copy);
  if (found) {
    await tx
      .update(copies)
      .set({ ...found, checkedAt: unit.now, checkedLevel: report.level })
      .where(eq(copies.id, copyId));
  }
  unit.changed('archive', copy.archiveId);
  const { level, storedBytes } = report;
  const look = { operationId: job.operationId, at: unit.now, by: job.startedBy, level };
  const damage = judged.find(({ outcome }) => outcome === 'damaged')?.what;
  await tx.insert(looks).values({
    ...{ ...look, id: randomUUID(), copyId, rackId: copy.rackId, durationMs },
    outcome: report.whole && damage === undefined ? 'whole' : 'damaged',
    // Only these levels read all of it.
    readBytes: level === 'bytes' || level === 'full' ? storedBytes : 0,
    what: (damage ?? (report.whole ? wordsOf(report, 0) : damageOf(report))).slice(0, WHAT_SIGNS),
  });
  if (judged.length === 0) return;
  const generation = report.contents?.generation ?? before.generation;
  await tx.insert(proofs).values(
    judged.map(({ backupId, outcome, items, bytes, what }) => ({
      ...{ ...look, id: randomUUID(), backupId, copyId, generation, outcome, items, bytes },
      ...{ storedBytes, what: what.slice(0, WHAT_SIGNS) },
    })),
  );
}
