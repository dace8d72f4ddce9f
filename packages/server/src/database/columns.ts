import { sql, type AnyColumn, type SQL } from 'drizzle-orm';
import { bigint, char, customType, datetime } from 'drizzle-orm/mysql-core';

/** A UUID in text. */
export const uuidColumn = (name: string) => char(name, { length: 36 });

/** Bytes. */
export const byteColumn = (name: string) => bigint(name, { mode: 'number', unsigned: true });

/** UTC, to the millisecond. */
export const instantColumn = (name: string) => datetime(name, { mode: 'date', fsp: 3 });

/** A value whose shape is counted: whoever reads it parses it. */
export interface Versioned {
  version: number;
  value: unknown;
}

/** A value as JSON. MariaDB keeps JSON as text, so it is read back here. */
// oxlint-disable-next-line typescript/no-unnecessary-type-parameters -- the caller says what it holds
export const jsonColumn = <T>(name: string) =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'longtext',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (text) => JSON.parse(text) as T,
  })(name);

/** At most so many bytes of what a thing is found by are looked at. */
const SEARCH_BYTES = 800;

/** What a thing is found by, in small letters. Compared byte by byte: a hundred thousand are looked through for a few letters. */
export const searchColumn = customType<{ data: Buffer }>({
  dataType: () => `varbinary(${SEARCH_BYTES})`,
});

/** What something is found by. */
export const searchText = (...parts: string[]): Buffer =>
  Buffer.from(parts.join(' ').toLowerCase()).subarray(0, SEARCH_BYTES);

/** Whether a thing is found by some letters, wherever they stand. */
export const isFoundBy = (column: AnyColumn, text: string): SQL =>
  sql`instr(${column}, ${Buffer.from(text.trim().toLowerCase())}) > 0`;

/**
 * The name of whoever did something, who is joined from the left: beside an inner join the database would begin with the few
 * people of a shop, and look at all that each of them ever did.
 */
export const nameOf = ({ name }: { name: AnyColumn }): SQL<string> => sql`coalesce(${name}, '')`;
