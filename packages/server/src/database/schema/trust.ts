import type { CopyId, RackId, ProofLevel, ProofOutcome, BackupId } from '@bright-cellar/core';
import { mysqlTable, varchar, int, index, bigint } from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn, byteColumn } from '../columns.js';
import { backups } from './archives.js';
import { technicians } from './people.js';
import { racks } from './racks.js';

/** Every look at a copy: what was read of it, how fast, and what was found. The ledger of a rack's care. */
export const looks = mysqlTable(
  'looks',
  {
    id: uuidColumn('id').primaryKey(),
    /** It may have gone since. */
    copyId: uuidColumn('copy_id').$type<CopyId>().notNull(),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    operationId: uuidColumn('operation_id').notNull(),
    at: instantColumn('at').notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    level: varchar('level', { length: 20 }).$type<ProofLevel>().notNull(),
    outcome: varchar('outcome', { length: 20 }).$type<ProofOutcome>().notNull(),
    readBytes: byteColumn('read_bytes').notNull(),
    durationMs: int('duration_ms').notNull(),
    what: varchar('what', { length: 400 }).notNull(),
  },
  (table) => [
    index('looks_rack_at').on(table.rackId, table.at),
    index('looks_copy_at').on(table.copyId, table.at),
  ],
);

/** What was found of a backup in one copy, in one state of it. */
export const proofs = mysqlTable(
  'proofs',
  {
    id: uuidColumn('id').primaryKey(),
    /** Which came later, whatever the computer’s clock said meanwhile. */
    sequence: bigint('sequence', { mode: 'number', unsigned: true })
      .autoincrement()
      .notNull()
      .unique(),
    /** It may have gone since. */
    copyId: uuidColumn('copy_id').$type<CopyId>().notNull(),
    generation: int('generation').notNull().default(0),
    backupId: uuidColumn('backup_id')
      .$type<BackupId>()
      .notNull()
      .references(() => backups.id),
    operationId: uuidColumn('operation_id').notNull(),
    at: instantColumn('at').notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    level: varchar('level', { length: 20 }).$type<ProofLevel>().notNull(),
    outcome: varchar('outcome', { length: 20 }).$type<ProofOutcome>().notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    what: varchar('what', { length: 400 }).notNull(),
  },
  (table) => [index('proofs_backup_sequence').on(table.backupId, table.sequence)],
);
