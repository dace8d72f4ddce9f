import { proofStates, type ProofState } from '@bright-cellar/core';
import { count, eq, sql, sum } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { archiveRows, archiveSums } from '../database/schema.js';

/** What is added up of an archive’s row. */
interface Summed {
  proof: ProofState;
  storedBytes: number;
}

/** Keeps the sums when a row comes, changes or goes. */
export async function sumAnew(
  tx: Transaction,
  before: Summed | null,
  after: Summed | null,
): Promise<void> {
  if (before?.proof === after?.proof && before?.storedBytes === after?.storedBytes) return;
  // All in one order, so that two rarely wait for each other.
  for (const proof of proofStates) {
    const [less, more] = [before, after].map((row) => (row?.proof === proof ? row : null));
    if (!less && !more) continue;
    await tx
      .update(archiveSums)
      .set({
        archives: sql`${archiveSums.archives} + ${Number(!!more) - Number(!!less)}`,
        storedBytes: sql`${archiveSums.storedBytes} + ${(more?.storedBytes ?? 0) - (less?.storedBytes ?? 0)}`,
      })
      .where(eq(archiveSums.proof, proof));
  }
}

/** Adds all of them up: of a catalogue in which nobody kept the sums. */
export async function sumAll(db: Database): Promise<void> {
  await db.transaction(async (tx) => {
    const sums = await tx
      .select({
        proof: archiveRows.proof,
        archives: count(),
        storedBytes: sum(archiveRows.storedBytes).mapWith(Number),
      })
      .from(archiveRows)
      .groupBy(archiveRows.proof);
    const none = { archives: 0, storedBytes: 0 };
    for (const proof of proofStates) {
      const all = { ...none, ...sums.find((one) => one.proof === proof), proof };
      await tx.insert(archiveSums).values(all).onDuplicateKeyUpdate({ set: all });
    }
  });
}
