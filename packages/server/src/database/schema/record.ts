import type { Change } from '@bright-cellar/contract';
import { mysqlTable, bigint, varchar, index, char, int } from 'drizzle-orm/mysql-core';
import { instantColumn, uuidColumn } from '../columns.js';
import { technicians } from './people.js';
import { tickets } from './tickets.js';

/** What changed, in the order in which it was written: from here every browser is told. Kept for a while only. */
export const outbox = mysqlTable(
  'outbox',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn('at').notNull(),
    subject: varchar('subject', { length: 20 }).$type<Change['subject']>().notNull(),
    /** Which one; empty for the list of them. */
    ref: varchar('ref', { length: 64 }).notNull(),
  },
  (table) => [index('outbox_at').on(table.at)],
);

/** Who did what. Rows are added and never changed: triggers refuse anything else, and each is sealed to all before it. */
export const audit = mysqlTable(
  'audit',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn('at').notNull(),
    technicianId: uuidColumn('technician_id').references(() => technicians.id),
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    action: varchar('action', { length: 40 }).notNull(),
    what: varchar('what', { length: 400 }).notNull(),
    /** SHA-256 over the digest of the entry before and what this one says (docs/audit.md). */
    digest: char('digest', { length: 64 }).notNull(),
  },
  (table) => [
    index('audit_ticket').on(table.ticketId),
    index('audit_at').on(table.at),
    index('audit_who').on(table.technicianId, table.at),
    index('audit_action').on(table.action, table.at),
  ],
);

/** Where the record ends: one row. Whoever adds to the record holds it meanwhile. */
export const auditHead = mysqlTable('audit_head', {
  id: int('id').primaryKey(),
  digest: char('digest', { length: 64 }).notNull(),
  entries: bigint('entries', { mode: 'number', unsigned: true }).notNull(),
});
