import type { RegularExtract } from '@bright-cellar/contract';
import type {
  DeviceId,
  VisitReason,
  AgreementKind,
  StepId,
  PlanMode,
  Choice,
  ExtractSet,
  Schedule,
} from '@bright-cellar/core';
import {
  mysqlTable,
  varchar,
  index,
  text,
  bigint,
  boolean,
  int,
  primaryKey,
  longtext,
  uniqueIndex,
} from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn, searchColumn, byteColumn, jsonColumn } from '../columns.js';
import { technicians } from './people.js';

export const customers = mysqlTable(
  'customers',
  {
    id: uuidColumn('id').primaryKey(),
    name: varchar('name', { length: 120 }).notNull(),
    phone: varchar('phone', { length: 40 }).notNull(),
    email: varchar('email', { length: 254 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    /** What they are found by, see {@link searchColumn}. */
    search: searchColumn('search').notNull(),
  },
  (table) => [index('customers_name_search').on(table.name, table.search)],
);

/** Devices as they were last read from the cable. */
export const devices = mysqlTable('devices', {
  id: uuidColumn('id').$type<DeviceId>().primaryKey(),
  serial: varchar('serial', { length: 64 }).notNull().unique(),
  family: varchar('family', { length: 40 }).notNull(),
  familyName: varchar('family_name', { length: 60 }).notNull(),
  kind: varchar('kind', { length: 20 }).notNull(),
  model: varchar('model', { length: 60 }).notNull(),
  name: varchar('name', { length: 120 }).notNull(),
  imei: varchar('imei', { length: 20 }),
  osName: varchar('os_name', { length: 60 }).notNull(),
  osVersion: varchar('os_version', { length: 30 }).notNull(),
  capacity: byteColumn('capacity').notNull(),
  /** `typed`: it was never on the bench, somebody wrote down what is printed on it. */
  readFrom: varchar('read_from', { length: 10 })
    .$type<'cable' | 'typed'>()
    .notNull()
    .default('cable'),
  seenAt: instantColumn('seen_at').notNull(),
});

export const tickets = mysqlTable(
  'tickets',
  {
    id: uuidColumn('id').primaryKey(),
    /** Digits only, so that a scanner can type it. */
    number: varchar('number', { length: 12 }).notNull().unique(),
    customerId: uuidColumn('customer_id')
      .notNull()
      .references(() => customers.id),
    deviceId: uuidColumn('device_id')
      .$type<DeviceId>()
      .notNull()
      .references(() => devices.id),
    reason: varchar('reason', { length: 20 }).$type<VisitReason>().notNull(),
    promisedAt: instantColumn('promised_at'),
    notes: text('notes').notNull(),
    openedBy: uuidColumn('opened_by')
      .notNull()
      .references(() => technicians.id),
    openedAt: instantColumn('opened_at').notNull(),
    closedAt: instantColumn('closed_at'),
  },
  (table) => [
    index('tickets_closed_opened').on(table.closedAt, table.openedAt),
    index('tickets_closed_promised').on(table.closedAt, table.promisedAt, table.openedAt),
    index('tickets_device_opened').on(table.deviceId, table.openedAt),
  ],
);

/** What the customer agreed to, or not, as it was last said: each with who noted it and when. Earlier words stay. */
export const agreements = mysqlTable(
  'agreements',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    kind: varchar('kind', { length: 20 }).$type<AgreementKind>().notNull(),
    given: boolean('given').notNull(),
    /** How long it is kept, where it is about that. */
    days: int('days'),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
  },
  (table) => [index('agreements_ticket').on(table.ticketId)],
);

/** Steps of a run sheet that somebody marked as done, or skipped with a reason. */
export const ticketSteps = mysqlTable(
  'ticket_steps',
  {
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    step: varchar('step', { length: 20 }).$type<StepId>().notNull(),
    state: varchar('state', { length: 10 }).$type<'done' | 'skipped'>().notNull(),
    /** Why it was skipped, or what was found. */
    reason: varchar('reason', { length: 300 }).notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.ticketId, table.step] })],
);

/** What was taken last time, so that it is proposed next time. Never single items: their names are the customer's. */
export const plans = mysqlTable('plans', {
  id: uuidColumn('id').primaryKey(),
  /** Empty for one that was only remembered. */
  name: varchar('name', { length: 60 }).notNull(),
  family: varchar('family', { length: 40 }).notNull(),
  deviceId: uuidColumn('device_id')
    .$type<DeviceId>()
    .references(() => devices.id),
  reason: varchar('reason', { length: 20 }).$type<VisitReason>(),
  technicianId: uuidColumn('technician_id')
    .notNull()
    .references(() => technicians.id),
  mode: varchar('mode', { length: 20 }).$type<PlanMode>().notNull(),
  choice: jsonColumn<Choice>('choice').notNull(),
  encrypted: boolean('encrypted').notNull(),
  usedAt: instantColumn('used_at').notNull(),
});

/** What is taken regularly from a ticket’s device. Passwords are typed again when due, or held in memory; never here. */
export const schedules = mysqlTable(
  'schedules',
  {
    id: uuidColumn('id').primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    /** One schedule each: a device’s messages may be taken more often than all of it. */
    takes: varchar('takes', { length: 90 }).$type<'backup' | 'sync' | ExtractSet>().notNull(),
    schedule: jsonColumn<Schedule>('schedule').notNull(),
    /** What kind of file; null for a backup. */
    extract: jsonColumn<RegularExtract>('extract'),
    /** Whom it is kept in step with and how, sealed; null for everything else. */
    sync: longtext('sync'),
    /** The other device's serial, where that is whom. */
    syncWith: varchar('sync_with', { length: 64 }),
    createdBy: uuidColumn('created_by')
      .notNull()
      .references(() => technicians.id),
    createdAt: instantColumn('created_at').notNull(),
  },
  (table) => [uniqueIndex('schedules_ticket_takes').on(table.ticketId, table.takes)],
);
