/** A count of bytes. Branded so that it cannot be mistaken for a count of items or milliseconds. */
export type Bytes = number & { readonly __unit: 'bytes' };

/** @throws RangeError when `n` is not a whole number from 0 to 2^53 − 1. */
export function bytes(n: number): Bytes {
  if (!Number.isSafeInteger(n) || n < 0) throw new RangeError(`not a number of bytes: ${n}`);
  return n as Bytes;
}

export const KB = 1e3;
export const MB = 1e6;
export const GB = 1e9;

/** Ids of different things are not interchangeable. All are UUIDs in lower-case text. */
export type Id<Of extends string> = string & { readonly __id: Of };
export type TicketId = Id<'ticket'>;
export type ArchiveId = Id<'archive'>;
export type BackupId = Id<'backup'>;
export type OperationId = Id<'operation'>;
