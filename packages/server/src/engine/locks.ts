import { excludes, Failure, type Lock } from '@bright-cellar/core';
import { eq, inArray } from 'drizzle-orm';
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
  await tx.insert(operationLocks).values(wanted.map((lock) => ({ operationId, ...lock })));
}

export async function releaseLocks(tx: Transaction, operationId: string): Promise<void> {
  await tx.delete(operationLocks).where(eq(operationLocks.operationId, operationId));
}
