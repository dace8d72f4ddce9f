import { Failure } from '@bright-cellar/core';
import { and, asc, desc, eq, gt, lt, or, type AnyColumn, type SQL } from 'drizzle-orm';
import { z } from 'zod';

/** Rows are told so many at a time. */
export const PAGE_ROWS = 60;

const cursorSchema = z.tuple([z.union([z.string(), z.number()]), z.string()]);

/** Where a page ends: the value that it is sorted by, and what tells equal ones apart. Opaque to whoever asks. */
export function cursorOf(value: string | number | Date, id: string): string {
  const kept = value instanceof Date ? value.toISOString() : value;
  return Buffer.from(JSON.stringify([kept, id])).toString('base64url');
}

/** @throws Failure `input-not-valid` */
function readCursor(text: string): z.infer<typeof cursorSchema> {
  try {
    return cursorSchema.parse(JSON.parse(Buffer.from(text, 'base64url').toString('utf8')));
  } catch (error) {
    throw new Failure(
      'input-not-valid',
      { next: 'Go back to the beginning of the list.' },
      { cause: error },
    );
  }
}

export type Order = 'asc' | 'desc';

/**
 * The rows after a cursor, in an order that has an index: none is skipped and none told twice, whatever comes and goes
 * meanwhile.
 * @param by what it is sorted by @param then what tells equal ones apart
 */
export function after(
  cursor: string,
  by: AnyColumn,
  then: AnyColumn,
  order: Order,
): SQL | undefined {
  const [kept, id] = readCursor(cursor);
  const value = by.dataType === 'date' ? new Date(kept) : kept;
  const beyond = order === 'asc' ? gt : lt;
  return or(beyond(by, value), and(eq(by, value), beyond(then, id)));
}

export const orderOf = (by: AnyColumn, then: AnyColumn, order: Order): SQL[] =>
  order === 'asc' ? [asc(by), asc(then)] : [desc(by), desc(then)];
