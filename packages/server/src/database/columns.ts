import { char, customType, datetime } from 'drizzle-orm/mysql-core';

/** A UUID in text. */
export const uuidColumn = (name: string) => char(name, { length: 36 });

/** UTC, to the millisecond. */
export const instantColumn = (name: string) => datetime(name, { mode: 'date', fsp: 3 });

/** A value as JSON. MariaDB keeps JSON as text, so it is read back here. */
// eslint-disable-next-line @typescript-eslint/no-unnecessary-type-parameters -- the caller says what it holds
export const jsonColumn = <T>(name: string) =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'longtext',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (text) => JSON.parse(text) as T,
  })(name);
