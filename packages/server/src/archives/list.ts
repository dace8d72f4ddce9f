import { askOf, type ArchiveId, type Ask } from '@bright-cellar/core';
import type {
  ArchiveRow,
  ArchiveSort,
  ArchivesSummary,
  QueryOf,
  routes,
} from '@bright-cellar/contract';
import { and, desc, eq, gte, inArray, lt, or, sql, sum, type SQL } from 'drizzle-orm';
import { isFoundBy } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import { after, cursorOf, orderOf, PAGE_ROWS } from '../database/page.js';
import { archiveRows, archives, archiveSums, devices } from '../database/schema.js';
import { knownDevice } from './archives.js';
import { Vocabulary, type Meant } from './spelling.js';

const columns = {
  taken: archiveRows.takenAt,
  device: archiveRows.deviceName,
  serial: archiveRows.serial,
  customer: archiveRows.customerName,
  ticket: archiveRows.ticketNumber,
  items: archiveRows.items,
  bytes: archiveRows.bytes,
  stored: archiveRows.storedBytes,
  rack: archiveRows.rackName,
  proof: archiveRows.proof,
} as const satisfies Record<ArchiveSort, unknown>;

/** Every word, or one that it may stand for, in whatever order; and the days between which it was taken. */
const matching = ({ words, taken }: Ask | Meant): SQL | undefined =>
  and(wordsIn(words.map((word) => [word].flat())), within(taken));

/** All of these are found; of each, one of what it may be. What is rarest is looked for first: the others seldom need to be. */
function wordsIn(words: readonly (readonly string[])[]): SQL | undefined {
  const rarest = words.toSorted((one, other) => rareness(other) - rareness(one));
  return and(...rarest.map((some) => or(...some.map((one) => isFoundBy(archiveRows.search, one)))));
}

/** A number is on few, a name on more; the longer it is, the fewer. */
const rareness = ([word = '']: readonly string[]) => word.length + (/\d/.test(word) ? 100 : 0);

const within = (taken: Ask['taken']): SQL | undefined =>
  and(
    taken?.from ? gte(archiveRows.takenAt, taken.from) : undefined,
    taken?.to ? lt(archiveRows.takenAt, taken.to) : undefined,
  );

const vocabulary = new Vocabulary();

/** A page of the list of archives. Where nothing has a word that was typed, what was meant by it is looked for. */
export async function listArchives(
  db: Database,
  query: QueryOf<typeof routes.archives>,
  now: Date,
) {
  const ask = askOf(query.text, now);
  const { sort, order, after: cursor } = query;
  return asAskedOrMeant(db, ask, {
    look: (wanted, known) => pageOf(db, query, wanted, known),
    isFound: ({ total }) => total > 0,
    first: cursor === '' ? { order: inOrder(sort, order), atMost: COUNTED_BESIDE } : null,
  });
}

/** The first archives of those that match, in their order. */
type Known = readonly { id: ArchiveId; takenAt: Date }[];

/**
 * What is found by the words as they were typed or, where there is nothing, by what was meant by them. A look at every archive
 * there is takes long: one answers for both wherever it can.
 * @param first what comes first; null further down, where it is not known whether what was typed was there before
 */
async function asAskedOrMeant<T extends object>(
  db: Database,
  ask: Ask,
  {
    look,
    isFound,
    first,
  }: {
    look: (wanted: Ask | Meant, known?: Known) => Promise<T>;
    isFound: (found: T) => boolean;
    first: { order: SQL[]; atMost: number } | null;
  },
): Promise<T & { readAs: string }> {
  const asAsked = async () => ({ ...(await look(ask)), readAs: '' });
  const meant = ask.words.length === 0 ? null : await vocabulary.meant(db, ask);
  if (!meant) return asAsked();
  const asMeant = async (known?: Known) => ({
    ...(await look(meant, known)),
    readAs: wordsOf(meant),
  });
  if (!first) {
    const found = await asAsked();
    return isFound(found) ? found : asMeant();
  }
  const either = await idsOfEither(db, ask, meant, first);
  const typed = either.filter(({ isTyped }) => isTyped);
  const isAll = either.length < first.atMost;
  if (isAll && typed.length > 0) return { ...(await look(ask, typed)), readAs: '' };
  if (isAll) return asMeant(either);
  const found = await asAsked();
  return isFound(found) ? found : asMeant(either);
}

const wordsOf = ({ words }: Meant) => words.map((some) => some.join(' or ')).join(', ');

/** So many are counted while a page of them is looked for. */
const COUNTED_BESIDE = 1000;

async function pageOf(
  db: Database,
  { sort, order, after: cursor }: QueryOf<typeof routes.archives>,
  ask: Ask | Meant,
  known?: Known,
) {
  const by = columns[sort];
  const where = matching(ask);
  const beyond = cursor === '' ? undefined : after(cursor, by, archiveRows.archiveId, order);
  // What few archives have is looked for from end to end, and so is their number: once for both.
  const countsBeside = cursor === '' && ask.words.length > 0;
  const found =
    known ??
    (await idsOf(
      db,
      ask,
      and(where, beyond),
      inOrder(sort, order),
      countsBeside ? COUNTED_BESIDE : PAGE_ROWS + 1,
    ));
  // Where all are here, they are counted already.
  const isAll = cursor === '' && found.length < (countsBeside ? COUNTED_BESIDE : PAGE_ROWS + 1);
  const total = isAll ? found.length : await counted();
  const ids = found.map(({ id }) => id);
  const rows = await rowsOf(db, ids.slice(0, PAGE_ROWS));
  const last = rows.at(-1)?.row;

  /** In the order of the index, it goes on where the search was left. */
  async function counted(): Promise<number> {
    const end = found.at(-1);
    if (!where) return allOf(db);
    if (!countsBeside || sort !== 'taken' || !end) return db.$count(archiveRows, where);
    const rest = after(cursorOf(end.takenAt, end.id), by, archiveRows.archiveId, order);
    return found.length + (await db.$count(archiveRows, and(where, rest)));
  }
  return {
    rows: rows.map(({ row, device }) => shown(row, device)),
    next: ids.length > PAGE_ROWS && last ? cursorOf(sortedBy(last, sort), last.archiveId) : null,
    total,
  };
}

const inOrder = (sort: ArchiveSort, order: 'asc' | 'desc'): SQL[] =>
  orderOf(columns[sort], archiveRows.archiveId, order);

const sortedBy = (row: typeof archiveRows.$inferSelect, sort: ArchiveSort) =>
  ({
    taken: row.takenAt,
    device: row.deviceName,
    serial: row.serial,
    customer: row.customerName,
    ticket: row.ticketNumber,
    items: row.items,
    bytes: row.bytes,
    stored: row.storedBytes,
    rack: row.rackName,
    proof: row.proof,
  })[sort];

/**
 * In it stands all that archives are found by: read from end to end it is a tenth of the rows themselves. In the order of the
 * newest, it is left as soon as there are enough.
 */
const SEARCH_INDEX = 'archive_rows_search';

/** Which archives, in their order: asked by itself, it is answered from an index alone. */
async function idsOf(
  db: Database,
  { words }: Ask | Meant,
  where: SQL | undefined,
  order: SQL[],
  atMost: number,
) {
  return db
    .select({ id: archiveRows.archiveId, takenAt: archiveRows.takenAt })
    .from(archiveRows, words.length === 0 ? {} : { forceIndex: SEARCH_INDEX })
    .where(where)
    .orderBy(...order)
    .limit(atMost);
}

/** The same of what was typed and of what may be meant by it, and which of both each is. */
async function idsOfEither(
  db: Database,
  ask: Ask,
  meant: Meant,
  { order, atMost }: { order: SQL[]; atMost: number },
) {
  const asTyped = ask.words.map((word) => [word]);
  // What means itself is looked for once, before either.
  const isSame = (some: readonly string[], n: number) =>
    some.length === 1 && some[0] === ask.words[n];
  const inBoth = meant.words.filter(isSame);
  const unlike = (words: readonly (readonly string[])[]) =>
    wordsIn(words.filter((_, n) => !isSame(meant.words[n] ?? [], n)));
  const typed = sql<number>`(${unlike(asTyped) ?? sql`true`})`;
  const found = await db
    .select({ id: archiveRows.archiveId, takenAt: archiveRows.takenAt, isTyped: typed })
    .from(archiveRows, { forceIndex: SEARCH_INDEX })
    .where(and(within(ask.taken), wordsIn(inBoth), or(unlike(asTyped), unlike(meant.words))))
    .orderBy(...order)
    .limit(atMost);
  return found.map((one) => ({ ...one, isTyped: one.isTyped !== 0 }));
}

/** Some archives, as they are asked for. */
async function rowsOf(db: Database, ids: readonly ArchiveId[]) {
  if (ids.length === 0) return [];
  const found = await db
    .select({ row: archiveRows, device: devices })
    .from(archiveRows)
    .innerJoin(archives, eq(archives.id, archiveRows.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(inArray(archiveRows.archiveId, [...ids]));
  const byId = new Map(found.map((one) => [one.row.archiveId, one]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

const shown = (
  { archiveId, takenAt, provenAt, proof, ...row }: typeof archiveRows.$inferSelect,
  device: typeof devices.$inferSelect,
): ArchiveRow => ({
  id: archiveId,
  ticketNumber: row.ticketNumber,
  customerName: row.customerName,
  device: knownDevice(device),
  takenAt: takenAt.toISOString(),
  items: row.items,
  bytes: row.bytes,
  storedBytes: row.storedBytes,
  rackName: row.rackName,
  provenAt: provenAt?.toISOString() ?? null,
  damaged: proof === 'damaged',
});

/** How many archives there are. */
async function allOf(db: Database): Promise<number> {
  const [all] = await db.select({ archives: sum(archiveSums.archives) }).from(archiveSums);
  return Number(all?.archives ?? 0);
}

/** What all archives come to. */
export async function summariseArchives(db: Database): Promise<ArchivesSummary> {
  const byProof = await db.select().from(archiveSums);
  const of = (proof: string) => byProof.find((one) => one.proof === proof)?.archives ?? 0;
  const [damaged] =
    of('damaged') === 0
      ? []
      : await db
          .select({ id: archiveRows.archiveId, deviceName: archiveRows.deviceName })
          .from(archiveRows)
          .where(eq(archiveRows.proof, 'damaged'))
          .orderBy(desc(archiveRows.takenAt))
          .limit(1);
  return {
    archives: byProof.reduce((total, one) => total + one.archives, 0),
    storedBytes: byProof.reduce((total, one) => total + one.storedBytes, 0),
    // What is damaged is not proven either.
    unproven: of('unproven') + of('damaged'),
    damaged: damaged ?? null,
  };
}

/** A few archives that match some letters, or what is meant by them, the newest first; and what was meant, where it is not that. */
export async function findArchives(db: Database, ask: Ask, atMost: number) {
  const order = inOrder('taken', 'desc');
  const look = async (wanted: Ask | Meant, known?: Known) => {
    const ids =
      known?.slice(0, atMost) ?? (await idsOf(db, wanted, matching(wanted), order, atMost));
    const rows = await rowsOf(
      db,
      ids.map(({ id }) => id),
    );
    return { rows: rows.map(({ row }) => row) };
  };
  return asAskedOrMeant(db, ask, {
    look,
    isFound: ({ rows }) => rows.length > 0,
    // Of what may be meant there can be many before the first that was typed.
    first: { order, atMost: COUNTED_BESIDE },
  });
}
