import type { ArchiveSort } from '@bright-cellar/contract';
import type { Permission } from '@bright-cellar/core';
import {
  mysqlTable,
  varchar,
  bigint,
  int,
  uniqueIndex,
  char,
  text,
  index,
} from 'drizzle-orm/mysql-core';
import { uuidColumn, instantColumn, jsonColumn } from '../columns.js';

export const technicians = mysqlTable('technicians', {
  id: uuidColumn('id').primaryKey(),
  login: varchar('login', { length: 60 }).notNull().unique(),
  name: varchar('name', { length: 120 }).notNull(),
  /** Argon2id, in its own text form. */
  passwordHash: varchar('password_hash', { length: 255 }).notNull(),
  /** Whoever was there before there were roles could do everything. */
  role: varchar('role', { length: 36 }).notNull().default('keeper'),
  createdAt: instantColumn('created_at').notNull(),
  /** What codes from their own device are made of (RFC 6238), sealed under the installation’s key; null where they use none. */
  totpSecret: varchar('totp_secret', { length: 300 }),
  /** The last half minute of which a code was used: none is good twice. */
  totpUsed: bigint('totp_used', { mode: 'number', unsigned: true }).notNull().default(0),
  /** Argon2id; null where they have none. Opens only where somebody signed in in full today. */
  pinHash: varchar('pin_hash', { length: 255 }),
  /** Wrong ones in a row since they last signed in in full. */
  pinTries: int('pin_tries').notNull().default(0),
  /** They work here no longer: they cannot sign in, and what they did stays on record under their name. */
  leftAt: instantColumn('left_at'),
});

/** A search in a list that somebody wants to have again. Their own. */
export const savedViews = mysqlTable(
  'saved_views',
  {
    id: uuidColumn('id').primaryKey(),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    name: varchar('name', { length: 60 }).notNull(),
    find: varchar('find', { length: 200 }).notNull(),
    sort: varchar('sort', { length: 20 }).$type<ArchiveSort>().notNull(),
    order: varchar('order', { length: 4 }).$type<'asc' | 'desc'>().notNull(),
  },
  (table) => [uniqueIndex('saved_views_name').on(table.technicianId, table.name)],
);

export const sessions = mysqlTable('sessions', {
  /** SHA-256 of the cookie's token: the token itself is nowhere but in the browser. */
  tokenHash: varchar('token_hash', { length: 64 }).primaryKey(),
  technicianId: uuidColumn('technician_id')
    .notNull()
    .references(() => technicians.id),
  createdAt: instantColumn('created_at').notNull(),
  expiresAt: instantColumn('expires_at').notNull(),
  /** When somebody last did something in it; null until they did. */
  usedAt: instantColumn('used_at'),
  /** What it is told by to its holder, who ends it; the token’s digest stays here. */
  id: uuidColumn('id').notNull().unique(),
  /** Where it was begun from, and with what: told to its holder. */
  address: varchar('address', { length: 64 }).notNull().default(''),
  browser: varchar('browser', { length: 160 }).notNull().default(''),
  /** Nobody is let in until whoever holds it says who they are. */
  lockedAt: instantColumn('locked_at'),
});

/** Computers on which somebody signed in in full: a PIN opens there until the day is over. */
export const trustedComputers = mysqlTable('trusted_computers', {
  /** SHA-256 of the cookie’s token. */
  tokenHash: char('token_hash', { length: 64 }).primaryKey(),
  expiresAt: instantColumn('expires_at').notNull(),
});

/** Public keys that somebody signs in with (WebAuthn). */
export const passkeys = mysqlTable(
  'passkeys',
  {
    id: uuidColumn('id').primaryKey(),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    /** SHA-256 of the credential’s id, which can be long. */
    credentialHash: char('credential_hash', { length: 64 }).notNull().unique(),
    credentialId: text('credential_id').notNull(),
    /** COSE, base64url. */
    publicKey: text('public_key').notNull(),
    counter: bigint('counter', { mode: 'number', unsigned: true }).notNull(),
    name: varchar('name', { length: 60 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    usedAt: instantColumn('used_at'),
  },
  (table) => [index('passkeys_of').on(table.technicianId)],
);

/** What the shop lets people work as, beside what every shop does. */
export const roles = mysqlTable(
  'roles',
  {
    id: uuidColumn('id').primaryKey(),
    name: varchar('name', { length: 60 }).notNull(),
    permissions: jsonColumn<Permission[]>('permissions').notNull(),
  },
  (table) => [uniqueIndex('roles_name').on(table.name)],
);
