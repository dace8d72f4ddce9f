import type { RackId, RackKind } from '@bright-cellar/core';
import { mysqlTable, varchar, int, boolean, primaryKey, bigint } from 'drizzle-orm/mysql-core';
import { uuidColumn, jsonColumn, byteColumn, instantColumn, type Versioned } from '../columns.js';

export const racks = mysqlTable('racks', {
  id: uuidColumn('id').$type<RackId>().primaryKey(),
  name: varchar('name', { length: 60 }).notNull().unique(),
  /** Where it is, by its kind, and what one signs in with, sealed. See `racks/addresses.ts`. */
  address: jsonColumn<Versioned>('address').notNull(),
  reserve: byteColumn('reserve').notNull(),
  kind: varchar('kind', { length: 20 }).$type<RackKind>().notNull().default('fixed'),
  /** Stands on its label, and as bars; see `rackCode`. */
  number: int('number').autoincrement().notNull().unique(),
  /** What people know it by beside its name: a ticket's number where it left or came with a customer, a shelf. */
  note: varchar('note', { length: 120 }).notNull().default(''),
  /** It stands somewhere else than the shop. */
  offPremises: boolean('off_premises').notNull().default(false),
  /** Nothing is put there, and nobody looks for it, until it is added again. */
  retiredAt: instantColumn('retired_at'),
  /** What `racks/watch.ts` saw last: whether it is here, its room, and when that was. */
  present: boolean('present').notNull().default(false),
  capacity: byteColumn('capacity').notNull().default(0),
  free: byteColumn('free').notNull().default(0),
  seenAt: instantColumn('seen_at'),
  /** Why it is away, where it says so itself. */
  awayWhy: varchar('away_why', { length: 200 }).notNull().default(''),
  /** Kept, not counted each time: what the catalogue says lies there. See `archives/rows.ts`. */
  archives: int('archives').notNull().default(0),
  storedBytes: byteColumn('stored_bytes').notNull().default(0),
});

/** A rack's room at the end of each day on which it was here. */
export const rackDays = mysqlTable(
  'rack_days',
  {
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    /** Days since 1 January 1970, UTC. */
    day: int('day').notNull(),
    free: byteColumn('free').notNull(),
    /** What archives took of it. */
    storedBytes: byteColumn('stored_bytes').notNull(),
  },
  (table) => [primaryKey({ columns: [table.rackId, table.day] })],
);

/** What of the catalogue lies on each rack: the last save there that was read back, and what was wrong with the last try. */
export const rackSaves = mysqlTable('rack_saves', {
  rackId: uuidColumn('rack_id')
    .$type<RackId>()
    .primaryKey()
    .references(() => racks.id),
  /** When what is saved there was so; null where nothing is yet. */
  savedAt: instantColumn('saved_at'),
  name: varchar('name', { length: 100 }),
  bytes: bigint('bytes', { mode: 'number', unsigned: true }),
  triedAt: instantColumn('tried_at').notNull(),
  problem: varchar('problem', { length: 400 }),
});
