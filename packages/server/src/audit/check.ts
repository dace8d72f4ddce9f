import { asc, eq, gt } from 'drizzle-orm';
import type { AuditCheck } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { audit, auditHead } from '../database/schema.js';
import { chained, NO_ENTRY } from '../kernel/audit.js';

/** An entry as it is checked, wherever it was read. */
export interface SealedEntry {
  at: Date;
  technicianId: string | null;
  ticketId: string | null;
  action: string;
  what: string;
  digest: string;
}

const AT_ONCE = 5000;

/** The record from its first entry on, some at a time. */
export async function* fromTheFirst(db: Database): AsyncGenerator<SealedEntry[]> {
  for (let last = 0; ;) {
    const rows = await db
      .select()
      .from(audit)
      .where(gt(audit.id, last))
      .orderBy(asc(audit.id))
      .limit(AT_ONCE);
    if (rows.length === 0) return;
    yield rows;
    last = rows.at(-1)?.id ?? last;
  }
}

/**
 * Follows the record from its first entry: each is to be sealed to all before it.
 * @param printed a digest as it was printed once, whole or its first digits; empty where there is none to look for
 */
export async function follow(
  entries: AsyncIterable<SealedEntry[]> | Iterable<SealedEntry[]>,
  printed: string,
): Promise<AuditCheck> {
  let [count, digest] = [0, NO_ENTRY];
  let printedAt: AuditCheck['printedAt'] = null;
  const wanted = printed.replaceAll(/\s/g, '').toLowerCase();
  for await (const some of entries) {
    for (const entry of some) {
      const expected = chained(digest, entry);
      if (entry.digest !== expected) {
        return {
          entries: count,
          digest,
          broken: { entry: count + 1, at: entry.at.toISOString() },
          printedAt,
        };
      }
      count += 1;
      digest = expected;
      if (wanted !== '' && printedAt === null && digest.startsWith(wanted)) {
        printedAt = { entry: count, at: entry.at.toISOString() };
      }
    }
  }
  return { entries: count, digest, broken: null, printedAt };
}

/** Where the record ends, as it says itself. */
export async function headOf(db: Database): Promise<{ entries: number; digest: string }> {
  const [head] = await db
    .select({ entries: auditHead.entries, digest: auditHead.digest })
    .from(auditHead)
    .where(eq(auditHead.id, 1));
  if (!head) throw new Error('the record has no head');
  return head;
}

/** The record of this shop, from its first entry to where it ended when the look began. */
export async function checkAudit(db: Database, printed: string): Promise<AuditCheck> {
  const { entries } = await headOf(db);
  const found = await follow(fromTheFirst(db), printed);
  if (found.broken !== null || found.entries >= entries) return found;
  // What was there at the end was taken away.
  return { ...found, broken: { entry: found.entries + 1, at: null } };
}
