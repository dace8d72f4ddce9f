import { backups } from '../../database/schema.js';
import { eq } from 'drizzle-orm';
import type { CrossingJob } from './crossing.js';

/** How much the whole backup holds: at most so much is gone through. */
export async function backupAmount({ db, backupId }: CrossingJob) {
  const [row] = await db
    .select({ items: backups.items, bytes: backups.bytes })
    .from(backups)
    .where(eq(backups.id, backupId));
  return row ?? { items: 0, bytes: 0 };
}
