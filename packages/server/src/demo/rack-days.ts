import { rackRoom } from '@bright-cellar/archive';
import type { RackId } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { rackDays, racks } from '../database/schema.js';
import { storeOf } from '../racks/index.js';

const DAY_MS = 86_400_000;
const DAYS = 200;
/** So many days ago it was made empty again. */
const EMPTIED = 45;
/** Of a rack's capacity, what a busy day takes. */
const DAY_SHARE = 0.012;

/** A rack's room over the past months, up to what it has today: emptied once, and otherwise filling. */
export async function loadRackDays(db: Database, rackId: RackId, now: Date): Promise<void> {
  const [rack] = await db.select().from(racks).where(eq(racks.id, rackId));
  if (!rack) return;
  const { free, capacity } = await rackRoom(storeOf(rack), rackId);
  const today = Math.floor(now.getTime() / DAY_MS);
  let seed = rack.number * 7919;
  const random = () => (seed = (seed * 16_807) % 2_147_483_647) / 2_147_483_647;
  const rows: (typeof rackDays.$inferInsert)[] = [];
  let room = free;
  for (let back = 1; back <= DAYS; back++) {
    const day = today - back;
    // 1 January 1970 was a Thursday; nobody works on Sundays.
    const isSunday = day % 7 === 3;
    if (!isSunday) room += random() * DAY_SHARE * capacity;
    if (back === EMPTIED) room -= 0.8 * capacity;
    room = Math.min(capacity, Math.max(0.04 * capacity, room));
    if (!isSunday)
      rows.push({ rackId, day, free: Math.round(room), storedBytes: Math.round(capacity - room) });
  }
  await db.insert(rackDays).values(rows);
}
