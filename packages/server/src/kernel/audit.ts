import { createHash } from 'node:crypto';
import type { AuditAction } from '@bright-cellar/core';
import { eq, sql } from 'drizzle-orm';
import type { Transaction } from '../database/connect.js';
import { audit, auditHead, technicians, tickets } from '../database/schema.js';

/** What an entry in the record says. `what` is a sentence for people; it holds no customer’s file names and no password. */
export interface AuditEntry {
  at: Date;
  technicianId: string | null;
  ticketId: string | null;
  action: AuditAction;
  what: string;
}

/** What the first entry follows. */
export const NO_ENTRY = '0'.repeat(64);

/**
 * What seals an entry to all before it: SHA-256 (FIPS 180-4) over the digest before it and what it says, one a line, in
 * UTF-8 (docs/audit.md). Whoever changes, removes or adds an entry afterwards must change every digest that follows.
 * @returns 64 hexadecimal digits
 */
export const chained = (
  before: string,
  { at, technicianId, ticketId, action, what }: Omit<AuditEntry, 'action'> & { action: string },
): string =>
  createHash('sha256')
    .update([before, at.toISOString(), technicianId ?? '', ticketId ?? '', action, what].join('\n'))
    .digest('hex');

/**
 * Adds entries at the end of the record, in their order: whoever adds others waits until these are there or are not. What they
 * name is held before, by {@link holdNamed}.
 */
export async function append(tx: Transaction, entries: readonly AuditEntry[]): Promise<void> {
  if (entries.length === 0) return;
  const [head] = await tx
    .select({ digest: auditHead.digest, entries: auditHead.entries })
    .from(auditHead)
    .where(eq(auditHead.id, 1))
    .for('update');
  if (!head) throw new Error('the record has no head');
  let { digest } = head;
  const rows = entries.map((entry) => ({ ...entry, digest: (digest = chained(digest, entry)) }));
  await tx.insert(audit).values(rows);
  await tx
    .update(auditHead)
    .set({ digest, entries: head.entries + rows.length })
    .where(eq(auditHead.id, 1));
}

/**
 * The rows that entries name are held before what everybody changes (the head, the sums of archives): somebody who has one
 * of them and waits for that would otherwise be waited for by who has it.
 */
export async function holdNamed(
  tx: Transaction,
  entries: readonly Pick<AuditEntry, 'technicianId' | 'ticketId'>[],
): Promise<void> {
  const people = named(entries.map(({ technicianId }) => technicianId));
  const about = named(entries.map(({ ticketId }) => ticketId));
  for (const [table, ids] of [
    [technicians, people],
    [tickets, about],
  ] as const) {
    if (ids.length === 0) continue;
    await tx.execute(sql`select 1 from ${table} where id in ${ids} lock in share mode`);
  }
}

/** Each once, in an order that is the same for everybody. */
const named = (ids: (string | null)[]): string[] =>
  [...new Set(ids.filter((id) => id !== null))].sort();
