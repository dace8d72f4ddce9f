import type { ArchiveId, KeepingKind, CopyId, RackId } from '@bright-cellar/core';
import { mysqlTable, bigint, varchar, index, int, boolean } from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn, byteColumn } from '../columns.js';
import { archives } from './archives.js';
import { technicians } from './people.js';
import { racks } from './racks.js';

/** What was said of one archive beside what the ticket agreed: that it is kept longer, or held. */
export const keepings = mysqlTable(
  'keepings',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    kind: varchar('kind', { length: 12 }).$type<KeepingKind>().notNull(),
    /** Until when; null where it is until somebody is told, and of a hold. */
    until: instantColumn('until'),
    reason: varchar('reason', { length: 300 }).notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
    /** Replaced by a later word, or lifted. */
    endedAt: instantColumn('ended_at'),
  },
  (table) => [index('keepings_archive').on(table.archiveId)],
);

/** Archives that were destroyed, or are being: what the certificate says. */
export const disposals = mysqlTable(
  'disposals',
  {
    id: uuidColumn('id').primaryKey(),
    /** Of the certificate. */
    number: int('number').autoincrement().notNull().unique(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    ticketNumber: varchar('ticket_number', { length: 12 }).notNull(),
    deviceName: varchar('device_name', { length: 120 }).notNull(),
    /** Maker's family and model, and the serial, as the certificate says them. */
    device: varchar('device', { length: 160 }).notNull(),
    serial: varchar('serial', { length: 64 }).notNull(),
    /** Empty once the house rules let names go. */
    customerName: varchar('customer_name', { length: 120 }).notNull(),
    reason: varchar('reason', { length: 300 }).notNull(),
    backups: int('backups').notNull(),
    firstTakenAt: instantColumn('first_taken_at').notNull(),
    lastTakenAt: instantColumn('last_taken_at').notNull(),
    decidedBy: uuidColumn('decided_by')
      .notNull()
      .references(() => technicians.id),
    decidedAt: instantColumn('decided_at').notNull(),
    /** When the last copy was seen to be gone; null while one is owed. */
    doneAt: instantColumn('done_at'),
  },
  (table) => [index('disposals_done').on(table.doneAt, table.number)],
);

/** Each copy of an archive that is destroyed: owed until it was seen to be gone. */
export const disposalCopies = mysqlTable(
  'disposal_copies',
  {
    copyId: uuidColumn('copy_id').$type<CopyId>().primaryKey(),
    disposalId: uuidColumn('disposal_id')
      .notNull()
      .references(() => disposals.id),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    folder: varchar('folder', { length: 255 }).notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    digest: varchar('digest', { length: 128 }).notNull(),
    goneAt: instantColumn('gone_at'),
    /** Something of it was there to destroy; false where it had gone before. Null while it is owed. */
    wasThere: boolean('was_there'),
  },
  (table) => [
    index('disposal_copies_disposal').on(table.disposalId),
    index('disposal_copies_owed').on(table.goneAt, table.rackId),
  ],
);

/** Copies that were: where they lay, and what became of them. What was found of them is kept with their ids. */
export const goneCopies = mysqlTable(
  'gone_copies',
  {
    id: uuidColumn('id').$type<CopyId>().primaryKey(),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>().notNull(),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    storedBytes: byteColumn('stored_bytes').notNull(),
    digest: varchar('digest', { length: 128 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    goneAt: instantColumn('gone_at').notNull(),
    operationId: uuidColumn('operation_id').notNull(),
  },
  (table) => [index('gone_copies_archive').on(table.archiveId)],
);
