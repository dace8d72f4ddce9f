import type { RackInFull } from '@bright-cellar/contract';
import { Failure, type RackId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { racks } from '../database/schema.js';
import { roomOverTime } from './days.js';
import { elevationOf } from './on-rack.js';
import { shownRack } from './racks.js';

/** One rack with everything that its page shows, also one that is out of use. @throws Failure `not-found` */
export async function rackInFull(db: Database, id: RackId, now: Date): Promise<RackInFull> {
  const [row] = await db.select().from(racks).where(eq(racks.id, id));
  if (!row) throw new Failure('not-found');
  const [elevation, { days }] = await Promise.all([
    elevationOf(db, row, now),
    roomOverTime(db, row, now),
  ]);
  return { rack: shownRack(row), elevation, days };
}
