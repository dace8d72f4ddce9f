import {
  owedTo,
  rackIdSchema,
  whereTo,
  type ArchiveId,
  type CareRules,
  type RackId,
  type Target,
} from '@bright-cellar/core';
import { and, asc, count, eq, exists, gt, inArray, lt, or, sql, type SQL } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archiveRows, copies, OWED_INDEX, racks } from '../database/schema.js';
import { ailingAmong, listRacks } from '../racks/index.js';

export interface Owed {
  row: typeof archiveRows.$inferSelect;
  copies: number;
  offPremises: boolean;
  /** Where the next one goes, or why it cannot be made now. */
  next: { rack: Target<RackId> } | { why: string };
}

/**
 * Whether an archive is owed something; null where none is. Which combinations of copies there are the index tells at once,
 * from one to the next: however few are owed something, it is not read through for them.
 */
async function owedBy(db: Database, rules: CareRules): Promise<SQL | null> {
  const { goodCopies, offPremises, olderCopies } = archiveRows;
  const there = await db
    .selectDistinct({ count: goodCopies, offPremises, older: olderCopies })
    .from(archiveRows, { forceIndex: OWED_INDEX });
  const owed = there.filter((good) => owedTo(good, rules) !== null);
  const isOwed = or(
    ...owed.map((good) =>
      and(
        eq(goodCopies, good.count),
        eq(offPremises, good.offPremises),
        eq(olderCopies, good.older),
      ),
    ),
  );
  return isOwed ?? null;
}

/** More are told as so many. */
const MOST_COUNTED = 1_000;

/** How many are owed something; `isMore`: at least so many. */
export async function countOwed(
  db: Database,
  rules: CareRules,
): Promise<{ total: number; isMore: boolean }> {
  const isOwed = await owedBy(db, rules);
  if (!isOwed) return { total: 0, isMore: false };
  const some = db
    .select({ id: archiveRows.archiveId })
    .from(archiveRows, { forceIndex: OWED_INDEX })
    .where(isOwed)
    .limit(MOST_COUNTED + 1)
    .as('some');
  const [found] = await db.select({ count: count() }).from(some);
  const counted = found?.count ?? 0;
  return { total: Math.min(counted, MOST_COUNTED), isMore: counted > MOST_COUNTED };
}

/** A copy that another can be made from lies on a rack that is here. */
const isReachable = exists(
  sql`(select 1 from ${copies} c join ${racks} r on r.id = c.rack_id
    where c.archive_id = ${archiveRows.archiveId} and c.state <> 'damaged' and r.present and r.retired_at is null)`,
);

/** A copy of it fits on some rack that is here, or an older one is there to be brought up to date. */
function mayFit(targets: readonly { present: boolean; free: number; reserve: number }[]) {
  const left = targets.flatMap(({ present, free, reserve }) => (present ? free - reserve : []));
  return or(gt(archiveRows.olderCopies, 0), lt(archiveRows.storedBytes, Math.max(0, ...left)));
}

/**
 * Archives that the house rules ask more copies of, those with the fewest first.
 * @param which `here`: only those of which a copy can be read now, and for which there is room: no other stands before them
 */
export async function listOwed(
  db: Database,
  rules: CareRules,
  atMost: number,
  which: 'all' | 'here' = 'all',
): Promise<Owed[]> {
  const [targets, isOwed] = await Promise.all([listRacks(db), owedBy(db, rules)]);
  if (!isOwed) return [];
  // Read from its index alone, in its very order.
  const found = await db
    .select({ id: archiveRows.archiveId })
    .from(archiveRows, { forceIndex: OWED_INDEX })
    .where(and(isOwed, which === 'here' ? and(isReachable, mayFit(targets)) : undefined))
    .orderBy(
      ...[asc(archiveRows.goodCopies), asc(archiveRows.offPremises)],
      ...[asc(archiveRows.olderCopies), asc(archiveRows.archiveId)],
    )
    .limit(atMost);
  const ids = found.map(({ id }) => id);
  if (ids.length === 0) return [];
  const [there, rows, ailing] = await Promise.all([
    copiesByArchive(db, ids),
    db.select().from(archiveRows).where(inArray(archiveRows.archiveId, ids)),
    ailingAmong(db, targets),
  ]);
  const byId = new Map(rows.map((row) => [row.archiveId, row]));
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
    // Of what is away nothing can be copied.
    const from = own.some(
      (copy) =>
        copy.state !== 'damaged' && targets.some((rack) => rack.id === copy.rackId && rack.present),
    );
    const newest = Math.max(0, ...own.map(({ generation }) => generation));
    const places = targets.map((rack): Target<RackId> => {
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
    return [
      {
        row,
        ...owed,
        next: from
          ? whereTo(owed, places, row.storedBytes)
          : { why: `Connect ${row.rackName}, where it lies.` },
      },
    ];
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
