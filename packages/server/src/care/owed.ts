import {
  owedTo,
  rackIdSchema,
  whereTo,
  type ArchiveId,
  type CareRules,
  type RackId,
  type Target,
} from '@bright-cellar/core';
import { asc, count, eq, gt, inArray, lt, or } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archiveRows, copies, OWED_INDEX } from '../database/schema.js';
import { ailingAmong, listRacks } from '../racks/index.js';

export interface Owed {
  row: typeof archiveRows.$inferSelect;
  copies: number;
  offPremises: boolean;
  /** Where the next one goes, or why it cannot be made now. */
  next: { rack: Target<RackId> } | { why: string };
}

const owedBy = ({ copies: wanted, offPremises }: CareRules) =>
  or(
    lt(archiveRows.goodCopies, Number(wanted)),
    gt(archiveRows.olderCopies, 0),
    offPremises ? eq(archiveRows.offPremises, false) : undefined,
  );

/** More are told as so many. */
const MOST_COUNTED = 10_000;

/** How many are owed something; `isMore`: at least so many. */
export async function countOwed(
  db: Database,
  rules: CareRules,
): Promise<{ total: number; isMore: boolean }> {
  const some = db
    .select({ id: archiveRows.archiveId })
    .from(archiveRows, { forceIndex: OWED_INDEX })
    .where(owedBy(rules))
    .limit(MOST_COUNTED + 1)
    .as('some');
  const [found] = await db.select({ count: count() }).from(some);
  const counted = found?.count ?? 0;
  return { total: Math.min(counted, MOST_COUNTED), isMore: counted > MOST_COUNTED };
}

/** Archives that the house rules ask more copies of, those with the fewest first. */
export async function listOwed(db: Database, rules: CareRules, atMost: number): Promise<Owed[]> {
  // Read from its index alone, in its very order: where nothing is owed, all of it is looked through.
  const found = await db
    .select({ id: archiveRows.archiveId })
    .from(archiveRows, { forceIndex: OWED_INDEX })
    .where(owedBy(rules))
    .orderBy(
      ...[asc(archiveRows.goodCopies), asc(archiveRows.offPremises)],
      ...[asc(archiveRows.olderCopies), asc(archiveRows.archiveId)],
    )
    .limit(atMost);
  const ids = found.map(({ id }) => id);
  if (ids.length === 0) return [];
  const [racks, there, rows] = await Promise.all([
    listRacks(db),
    copiesByArchive(db, ids),
    db.select().from(archiveRows).where(inArray(archiveRows.archiveId, ids)),
  ]);
  const byId = new Map(rows.map((row) => [row.archiveId, row]));
  const ailing = await ailingAmong(db, racks);
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    const good = {
      ...{ count: row.goodCopies, offPremises: row.offPremises },
      older: row.olderCopies,
    };
    const owed = owedTo(good, rules);
    if (!owed) return [];
    const own = there.get(row.archiveId) ?? [];
    const newest = Math.max(0, ...own.map(({ generation }) => generation));
    const targets = racks.map((rack): Target<RackId> => {
      const copy = own.find(({ rackId }) => rackId === rack.id);
      return {
        ...{ id: rackIdSchema.parse(rack.id), name: rack.name, present: rack.present },
        ...{ offPremises: rack.offPremises, free: rack.free, reserve: rack.reserve },
        ailing: ailing.has(rack.id),
        has: copy
          ? {
              isNewest: copy.generation === newest,
              isDamaged: copy.state === 'damaged',
              storedBytes: copy.storedBytes,
            }
          : null,
      };
    });
    return [{ row, ...owed, next: whereTo(owed, targets, row.storedBytes) }];
  });
}

async function copiesByArchive(db: Database, ids: readonly ArchiveId[]) {
  const rows = await db
    .select()
    .from(copies)
    .where(inArray(copies.archiveId, [...ids]));
  const found = new Map<string, typeof rows>();
  for (const row of rows) found.set(row.archiveId, [...(found.get(row.archiveId) ?? []), row]);
  return found;
}
