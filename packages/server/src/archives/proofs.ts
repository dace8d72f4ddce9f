import { knownOfBackup, type BackupId } from '@bright-cellar/core';
import type { Proof } from '@bright-cellar/contract';
import { desc, eq, inArray } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { nameOf } from '../database/columns.js';
import { copies, proofs, technicians } from '../database/schema.js';

/** What is known of some backups by the looks at their copies: as much as {@link proofsOf} tells, and no more read than that needs. */
export async function knownOfBackups(db: Database, backupIds: readonly BackupId[]) {
  const rows =
    backupIds.length === 0
      ? []
      : await db
          .select({
            backupId: proofs.backupId,
            copyId: proofs.copyId,
            level: proofs.level,
            outcome: proofs.outcome,
            at: proofs.at,
            generation: proofs.generation,
            copyGeneration: copies.generation,
          })
          .from(proofs)
          .leftJoin(copies, eq(copies.id, proofs.copyId))
          .where(inArray(proofs.backupId, [...backupIds]))
          .orderBy(desc(proofs.sequence));
  return (id: BackupId) =>
    knownOfBackup(
      rows
        .filter(({ backupId }) => backupId === id)
        .map(({ at, generation, copyGeneration, ...look }) => ({
          ...look,
          at: at.toISOString(),
          current: generation === copyGeneration,
          gone: copyGeneration === null,
        })),
    );
}

/** What was found of some backups, by backup, the newest first. */
export async function proofsOf(
  db: Database | Transaction,
  backupIds: readonly BackupId[],
): Promise<Map<string, Proof[]>> {
  const found = new Map<string, Proof[]>();
  if (backupIds.length === 0) return found;
  const rows = await db
    .select({ proof: proofs, by: nameOf(technicians), copyGeneration: copies.generation })
    .from(proofs)
    .leftJoin(technicians, eq(technicians.id, proofs.by))
    .leftJoin(copies, eq(copies.id, proofs.copyId))
    .where(inArray(proofs.backupId, [...backupIds]))
    .orderBy(desc(proofs.sequence));
  for (const { proof, by, copyGeneration } of rows) {
    const { id, backupId, copyId, level, outcome, items, bytes, storedBytes, what } = proof;
    const known = found.get(backupId) ?? [];
    found.set(backupId, known);
    known.push({
      ...{ id, copyId, level, outcome, items, bytes, storedBytes, what, by },
      current: proof.generation === copyGeneration,
      gone: copyGeneration === null,
      at: proof.at.toISOString(),
    });
  }
  return found;
}
