import { mysqlTable, varchar, char, longtext, uniqueIndex } from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn } from '../columns.js';

/** What a device and a customer's own books held when they were last in step, sealed under the installation's key. */
export const syncStates = mysqlTable(
  'sync_states',
  {
    id: uuidColumn('id').primaryKey(),
    serial: varchar('serial', { length: 200 }).notNull(),
    /** Tells one server and who signs in there from all others, and nothing of it. */
    partner: char('partner', { length: 64 }).notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    sealed: longtext('sealed').notNull(),
    updatedAt: instantColumn('updated_at').notNull(),
  },
  (table) => [uniqueIndex('sync_states_what').on(table.serial, table.partner, table.kind)],
);

/** How both sides were before they were last written, sealed; and what was written, so that it can be taken back. */
export const syncSnapshots = mysqlTable(
  'sync_snapshots',
  {
    id: uuidColumn('id').primaryKey(),
    serial: varchar('serial', { length: 200 }).notNull(),
    partner: char('partner', { length: 64 }).notNull(),
    sealed: longtext('sealed').notNull(),
    takenAt: instantColumn('taken_at').notNull(),
  },
  (table) => [uniqueIndex('sync_snapshots_what').on(table.serial, table.partner)],
);
