import type {
  ArchiveId,
  BackupId,
  LookInEnding,
  OperationKind,
  OperationState,
  LinkDeviceId,
  Estimate,
  Problem,
  RackId,
  MoveState,
  Lock,
} from '@bright-cellar/core';
import {
  mysqlTable,
  varchar,
  int,
  index,
  double,
  boolean,
  primaryKey,
} from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn, jsonColumn, byteColumn, type Versioned } from '../columns.js';
import { archives } from './archives.js';
import { technicians } from './people.js';
import { racks } from './racks.js';
import { tickets } from './tickets.js';

/** Who looked into which backup, when, why and how much of it: the look itself is in memory only. */
export const lookIns = mysqlTable(
  'look_ins',
  {
    id: uuidColumn('id').primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    backupId: uuidColumn('backup_id').$type<BackupId>().notNull(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    /** What for, as whoever looked said it. */
    reason: varchar('reason', { length: 200 }).notNull(),
    openedAt: instantColumn('opened_at').notNull(),
    endedAt: instantColumn('ended_at'),
    ending: varchar('ending', { length: 20 }).$type<LookInEnding>(),
    /** Items of which anything was shown: messages, cards, calls, names of files. */
    shown: int('shown').notNull().default(0),
    /** Files that were taken out. */
    taken: int('taken').notNull().default(0),
    /** Items that were opened by themselves: pictures. */
    opened: int('opened').notNull().default(0),
  },
  (table) => [
    index('look_ins_ended').on(table.endedAt),
    index('look_ins_ticket').on(table.ticketId),
  ],
);

/** Long work. The row outlives every process; the lease says which process is doing it. */
export const operations = mysqlTable(
  'operations',
  {
    id: uuidColumn('id').primaryKey(),
    kind: varchar('kind', { length: 20 }).$type<OperationKind>().notNull(),
    state: varchar('state', { length: 20 }).$type<OperationState>().notNull(),
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    /** As the link named it then. */
    deviceId: varchar('device_id', { length: 64 }).$type<LinkDeviceId>(),
    deviceName: varchar('device_name', { length: 120 }),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>(),
    backupId: uuidColumn('backup_id').$type<BackupId>(),
    /** Parsed on the way out, as its kind says in core. */
    input: jsonColumn<Versioned>('input').notNull(),
    phase: varchar('phase', { length: 20 }).notNull(),
    doneBytes: byteColumn('done_bytes').notNull().default(0),
    totalBytes: byteColumn('total_bytes').notNull().default(0),
    doneItems: int('done_items').notNull().default(0),
    totalItems: int('total_items').notNull().default(0),
    rate: double('rate').notNull().default(0),
    leftLowMs: double('left_low_ms'),
    leftHighMs: double('left_high_ms'),
    needs: varchar('needs', { length: 300 }),
    /** What was expected of it before it started; null where nobody estimated. */
    estimate: jsonColumn<Estimate>('estimate'),
    startedBy: uuidColumn('started_by')
      .notNull()
      .references(() => technicians.id),
    startedAt: instantColumn('started_at').notNull(),
    endedAt: instantColumn('ended_at'),
    leaseOwner: uuidColumn('lease_owner'),
    leaseUntil: instantColumn('lease_until'),
    result: jsonColumn<Versioned>('result'),
    /** When the state that it is in must have been left; null where it may last. */
    deadline: instantColumn('deadline'),
    /** Items that failed and can be tried again by themselves. */
    retryable: int('retryable').notNull().default(0),
    problem: jsonColumn<Problem>('problem'),
  },
  (table) => [
    // With the kind: how often each was done in a day is counted from it alone.
    index('operations_state_ended').on(table.state, table.endedAt, table.kind),
    index('operations_ticket_started').on(table.ticketId, table.startedAt),
    index('operations_device').on(table.deviceId, table.kind),
    index('operations_started').on(table.startedAt),
    index('operations_kind').on(table.kind, table.state, table.startedAt),
  ],
);

/** The moves of a plan that is carried out, in their order: how far each is. */
export const moveSteps = mysqlTable(
  'move_steps',
  {
    operationId: uuidColumn('operation_id')
      .notNull()
      .references(() => operations.id),
    step: int('step').notNull(),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>().notNull(),
    fromRackId: uuidColumn('from_rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    toRackId: uuidColumn('to_rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    /** The archive's name there; null until it was decided. */
    toFolder: varchar('to_folder', { length: 255 }),
    bytes: byteColumn('bytes').notNull(),
    detour: boolean('detour').notNull(),
    state: varchar('state', { length: 10 }).$type<MoveState>().notNull(),
    /** Why it was left where it is. */
    why: varchar('why', { length: 400 }).notNull().default(''),
  },
  (table) => [primaryKey({ columns: [table.operationId, table.step] })],
);

/** What operations hold while they are not over: written in the transaction that starts one, gone in the one that ends it. */
export const operationLocks = mysqlTable(
  'operation_locks',
  {
    operationId: uuidColumn('operation_id')
      .notNull()
      .references(() => operations.id),
    resource: varchar('resource', { length: 90 }).$type<Lock['resource']>().notNull(),
    mode: varchar('mode', { length: 10 }).$type<Lock['mode']>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.resource, table.operationId] }),
    index('operation_locks_operation').on(table.operationId),
  ],
);
