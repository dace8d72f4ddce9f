import { mysqlTable, varchar, tinyint, mediumtext, text } from 'drizzle-orm/mysql-core';
import { jsonColumn } from '../columns.js';

/** What the shop decided once for everybody, by name. */
export const settings = mysqlTable('settings', {
  name: varchar('name', { length: 40 }).primaryKey(),
  value: jsonColumn<unknown>('value').notNull(),
});

/** What stands on the shop's papers beside its name: one row, or none. */
export const shopLogo = mysqlTable('shop_logo', {
  id: tinyint('id').primaryKey(),
  /** PNG, base64. */
  png: mediumtext('png').notNull(),
});

/** The adapter that speaks to devices, where it is not the one that comes with the program: one row, or none. */
export const namedAdapter = mysqlTable('named_adapter', {
  id: tinyint('id').primaryKey(),
  address: varchar('address', { length: 300 }).notNull(),
  /** Sealed under the installation's key. */
  token: text('token').notNull(),
});
