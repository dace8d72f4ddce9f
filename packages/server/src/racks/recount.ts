import type { RackId } from '@bright-cellar/core';
import { eq, inArray, sql } from 'drizzle-orm';
import type { Transaction } from '../database/connect.js';
import { archiveRows, archives, copies, racks } from '../database/schema.js';

/** A rack went out of use, came back, or stands elsewhere now: what lies there counts otherwise. */
export async function refreshArchivesOn(tx: Transaction, rackId: RackId): Promise<void> {
  const sound = sql`from ${copies} c join ${racks} r on r.id = c.rack_id
    where c.archive_id = ${archiveRows.archiveId} and c.state <> 'damaged' and r.retired_at is null`;
  const newest = sql`(select max(g.generation) from ${copies} g where g.archive_id = ${archiveRows.archiveId})`;
  const good = sql`${sound} and c.generation = ${newest}`;
  const lying = tx.select({ id: copies.archiveId }).from(copies).where(eq(copies.rackId, rackId));
  // Whoever makes such a row anew from what was before is overtaken.
  await tx
    .update(archives)
    .set({ version: sql`${archives.version} + 1` })
    .where(inArray(archives.id, lying));
  await tx
    .update(archiveRows)
    .set({
      goodCopies: sql`(select count(*) ${good})`,
      olderCopies: sql`(select count(*) ${sound} and c.generation < ${newest})`,
      offPremises: sql`(select coalesce(max(r.off_premises), 0) ${good})`,
    })
    .where(inArray(archiveRows.archiveId, lying));
}
