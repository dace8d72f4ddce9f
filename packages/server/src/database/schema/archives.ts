import type {
  ArchiveId,
  DeviceId,
  ProofState,
  CopyId,
  RackId,
  CopyState,
  ProofLevel,
  BackupId,
  ClassAmount,
  FailedItems,
  BackupScope,
  CoverageLine,
} from '@bright-cellar/core';
import { mysqlTable, varchar, boolean, index, int } from 'drizzle-orm/mysql-core';
import {
  uuidColumn,
  instantColumn,
  byteColumn,
  searchColumn,
  jsonColumn,
  type Versioned,
} from '../columns.js';
import { technicians } from './people.js';
import { racks } from './racks.js';
import { tickets, devices } from './tickets.js';

export const archives = mysqlTable(
  'archives',
  {
    id: uuidColumn('id').$type<ArchiveId>().primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    deviceId: uuidColumn('device_id')
      .$type<DeviceId>()
      .notNull()
      .references(() => devices.id),
    passwordHolder: varchar('password_holder', { length: 20 }).notNull(),
    /** `false`: anybody can open it, with the password that docs/archive-format.md prints. */
    encrypted: boolean('encrypted').notNull().default(true),
    /** Whether the shop’s escrow can open it too. */
    escrow: boolean('escrow').notNull().default(false),
    reminder: varchar('reminder', { length: 200 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    /** How often its row in the list was made anew: whoever does so tells by it whether somebody else did meanwhile. */
    version: int('version').notNull().default(0),
    /** Somebody decided to destroy it: from then on it is nowhere to be found, and the disposal says what became of it. */
    disposedAt: instantColumn('disposed_at'),
  },
  (table) => [index('archives_device_created').on(table.deviceId, table.createdAt)],
);

/**
 * What the list of archives shows, sorts and is searched by: one row an archive, made anew by `archives/rows.ts` whenever the
 * archive changes.
 */
/** In it stands all that says what an archive is owed. */
export const OWED_INDEX = 'archive_rows_owed';

export const archiveRows = mysqlTable(
  'archive_rows',
  {
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .primaryKey()
      .references(() => archives.id),
    /** Of its newest backup. */
    takenAt: instantColumn('taken_at').notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    deviceName: varchar('device_name', { length: 120 }).notNull(),
    serial: varchar('serial', { length: 64 }).notNull(),
    customerName: varchar('customer_name', { length: 120 }).notNull(),
    ticketNumber: varchar('ticket_number', { length: 12 }).notNull(),
    rackName: varchar('rack_name', { length: 200 }).notNull(),
    provenAt: instantColumn('proven_at'),
    proof: varchar('proof', { length: 10 }).$type<ProofState>().notNull(),
    /** Copies that hold all of it and are not known to be damaged, on racks in use; and whether one of them is off the premises. */
    goodCopies: int('good_copies').notNull().default(0),
    offPremises: boolean('off_premises').notNull().default(false),
    /** Those that are whole and older. */
    olderCopies: int('older_copies').notNull().default(0),
    /** From when it is kept no longer by what was agreed; null where that is not in sight. */
    dueAt: instantColumn('due_at'),
    /** Somebody holds it: it is not destroyed, due or not. */
    held: boolean('held').notNull().default(false),
    search: searchColumn('search').notNull(),
  },
  (table) => [
    index('archive_rows_due').on(table.dueAt, table.archiveId),
    index('archive_rows_held').on(table.held, table.archiveId),
    index(OWED_INDEX).on(table.goodCopies, table.offPremises, table.olderCopies),
    index('archive_rows_taken').on(table.takenAt, table.archiveId),
    index('archive_rows_items').on(table.items, table.archiveId),
    index('archive_rows_bytes').on(table.bytes, table.archiveId),
    index('archive_rows_stored').on(table.storedBytes, table.archiveId),
    index('archive_rows_device').on(table.deviceName, table.archiveId),
    index('archive_rows_serial').on(table.serial, table.archiveId),
    index('archive_rows_customer').on(table.customerName, table.archiveId),
    index('archive_rows_ticket').on(table.ticketNumber, table.archiveId),
    index('archive_rows_rack').on(table.rackName, table.archiveId),
    index('archive_rows_proof').on(table.proof, table.archiveId),
    index('archive_rows_search').on(table.takenAt, table.archiveId, table.search),
  ],
);

/**
 * What all archives in the list come to, by their proof: one row for each, kept by `archives/sums.ts` with every row of the
 * list that changes. To count those takes as long as to look through them.
 */
export const archiveSums = mysqlTable('archive_sums', {
  proof: varchar('proof', { length: 10 }).$type<ProofState>().primaryKey(),
  archives: int('archives').notNull(),
  storedBytes: byteColumn('stored_bytes').notNull(),
});

/** What lies on a rack, by its size. */
export const COPIES_INDEX = 'copies_rack_stored';

/** Which copies nobody looked at for longest. */
export const CHECKED_INDEX = 'copies_checked';

/** An archive as it lies in one place. */
export const copies = mysqlTable(
  'copies',
  {
    id: uuidColumn('id').$type<CopyId>().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    folder: varchar('folder', { length: 255 }).notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    /** Which state of the archive it holds, and the SHA-512 of its manifest then. */
    generation: int('generation').notNull().default(0),
    digest: varchar('digest', { length: 128 }).notNull().default(''),
    /** What the last look at it in this state found, how close it looked, and when; `unknown` where nobody looked since it changed. */
    state: varchar('state', { length: 20 }).$type<CopyState>().notNull().default('unknown'),
    checkedAt: instantColumn('checked_at'),
    checkedLevel: varchar('checked_level', { length: 20 }).$type<ProofLevel>(),
    /** The customer took their consent to escrow back, and its key is still to be taken out of this copy. */
    escrowOwed: boolean('escrow_owed').notNull().default(false),
    createdAt: instantColumn('created_at').notNull(),
  },
  (table) => [
    index(COPIES_INDEX).on(table.rackId, table.storedBytes),
    index(CHECKED_INDEX).on(table.checkedAt, table.rackId),
  ],
);

/** A change of a copy that is being decided on its medium: what to write down once it is. One at a time. */
export const copyChanges = mysqlTable('copy_changes', {
  copyId: uuidColumn('copy_id')
    .$type<CopyId>()
    .primaryKey()
    .references(() => copies.id),
  change: jsonColumn<Versioned>('change').notNull(),
});

export const backups = mysqlTable(
  'backups',
  {
    id: uuidColumn('id').$type<BackupId>().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    /** The visit during which it was taken; an archive can outlast many. */
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    operationId: uuidColumn('operation_id').notNull(),
    /** The state of the archive that it came with: a copy in an older state does not hold it. */
    generation: int('generation').notNull().default(0),
    /** The state from which it is not in the archive any more; null while it is. A copy in an older state holds it still. */
    prunedIn: int('pruned_in'),
    takenAt: instantColumn('taken_at').notNull(),
    takenBy: uuidColumn('taken_by')
      .notNull()
      .references(() => technicians.id),
    osVersion: varchar('os_version', { length: 30 }).notNull(),
    /** The device's content revision when it was read: tells whether the backup is still current. */
    contentRevision: varchar('content_revision', { length: 64 }).notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    /** What the archive did not have before: items, and bytes of contents. */
    newItems: int('new_items').notNull(),
    newBytes: byteColumn('new_bytes').notNull(),
    durationMs: int('duration_ms').notNull(),
    /** SHA-512 of the archive's manifest when it was taken. */
    digest: varchar('digest', { length: 128 }).notNull(),
    /** SHA-512 of its own list. */
    listDigest: varchar('list_digest', { length: 128 }).notNull().default(''),
    classes: jsonColumn<ClassAmount[]>('classes').notNull(),
    failed: jsonColumn<FailedItems[]>('failed').notNull(),
    /** What was to be taken: everything, or not; an erase may rest on everything only. */
    scope: jsonColumn<BackupScope>('scope').notNull(),
    /** What this backup does not hold, why, and how it comes back. */
    coverage: jsonColumn<CoverageLine[]>('coverage').notNull(),
  },
  (table) => [
    index('backups_archive_taken').on(table.archiveId, table.takenAt),
    index('backups_ticket_taken').on(table.ticketId, table.takenAt),
    index('backups_operation').on(table.operationId),
  ],
);
