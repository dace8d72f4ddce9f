import { randomUUID } from 'node:crypto';
import { rackRoom } from '@bright-cellar/archive';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { copies, looks, racks } from '../database/schema.js';
import type { PastRack } from './past.js';

const DAY_MS = 86_400_000;
/** What the second rack read at, bytes a second, at one look after the other, the newest first: it is getting tired. */
const RATES = [38e6, 41e6, 44e6, 40e6, 47e6, 104e6, 109e6, 112e6, 108e6, 115e6, 111e6, 113e6];
const READ_BYTES = 2e9;
/** So much is left above the reserve of the first rack: it is nearly full. */
const LEFT = 6e9;

/** One rack of the demo is nearly full, and another reads slower than it did. */
export async function loadWear(
  db: Database,
  by: string,
  [full, tired]: readonly PastRack[],
  now: Date,
): Promise<void> {
  if (full) {
    const { free } = await rackRoom(full.store, full.id);
    const reserve = Math.max(1e9, Math.floor((free - LEFT) / 1e9) * 1e9);
    await db.update(racks).set({ reserve }).where(eq(racks.id, full.id));
  }
  if (!tired) return;
  const own = await db.select().from(copies).where(eq(copies.rackId, tired.id));
  await db.insert(looks).values(
    RATES.flatMap((rate, n) => {
      const copy = own[n % own.length];
      if (!copy) return [];
      return {
        ...{ id: randomUUID(), copyId: copy.id, rackId: tired.id, operationId: randomUUID(), by },
        at: new Date(now.getTime() - (n + 1) * 4 * DAY_MS),
        ...({ level: 'bytes', outcome: 'whole', readBytes: READ_BYTES } as const),
        durationMs: Math.round((READ_BYTES / rate) * 1000),
        what: 'Every stored byte checked.',
      };
    }),
  );
}
