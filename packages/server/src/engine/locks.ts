import { excludes, Failure, type Lock } from '@bright-cellar/core';
import { and, eq, inArray } from 'drizzle-orm';
import type { Database, Transaction } from '../database/connect.js';
import { operationLocks } from '../database/schema.js';

/** Whether some work has a lock beside which this one cannot be had. */
export async function isHeld(db: Database, lock: Lock): Promise<boolean> {
  const held = await db
    .select({ resource: operationLocks.resource, mode: operationLocks.mode })
    .from(operationLocks)
    .where(eq(operationLocks.resource, lock.resource));
  return held.some((other) => excludes(lock, other));
}

/** Takes all of them, or none. @throws Failure `device-busy`, `archive-in-use` */
export async function takeLocks(
  tx: Transaction,
  operationId: string,
  locks: readonly Lock[],
): Promise<void> {
  // Always in one order, so that two that want the same rarely wait for each other; where they do, one begins anew.
  const wanted = [...locks].sort((a, b) => (a.resource < b.resource ? -1 : 1));
  const resources = wanted.map(({ resource }) => resource);
  const held = await tx
    .select({ resource: operationLocks.resource, mode: operationLocks.mode })
    .from(operationLocks)
    .where(inArray(operationLocks.resource, resources))
    // Also the gaps: nobody else writes such a row until this transaction is over.
    .for('update');
  const taken = wanted.find((lock) => held.some((other) => excludes(lock, other)));
  if (taken) {
    throw new Failure(taken.resource.startsWith('device:') ? 'device-busy' : 'archive-in-use');
  }
  if (wanted.length === 0) return;
  await tx.insert(operationLocks).values(wanted.map((lock) => ({ operationId, ...lock })));
}

/**
 * Does something while work that is under way has more locks than it began with.
 * @throws Failure `device-busy`, `archive-in-use` at once; what `work` throws
 */
export async function whileHolding<T>(
  db: Database,
  operationId: string,
  locks: readonly Lock[],
  work: () => Promise<T>,
): Promise<T> {
  await db.transaction((tx) => takeLocks(tx, operationId, locks));
  try {
    return await work();
  } finally {
    // Where the database is away, they go with the work itself.
    await db
      .delete(operationLocks)
      .where(
        and(
          eq(operationLocks.operationId, operationId),
          inArray(
            operationLocks.resource,
            locks.map(({ resource }) => resource),
          ),
        ),
      )
      .catch(() => undefined);
  }
}

export async function releaseLocks(tx: Transaction, operationId: string): Promise<void> {
  await tx.delete(operationLocks).where(eq(operationLocks.operationId, operationId));
}
