import { z } from 'zod';
import {
  archiveIdSchema,
  byteCountSchema,
  copyIdSchema,
  deviceIdSchema,
  idSchema,
  instantSchema,
  rackIdSchema,
  type RackId,
} from '../values/index.js';

/** Bytes a second, as a range that most work keeps to. */
export const rateSchema = z.object({ low: z.number().positive(), high: z.number().positive() });
export type Rate = z.infer<typeof rateSchema>;

export const stockRackSchema = z.object({
  id: rackIdSchema,
  name: z.string(),
  here: z.boolean(),
  offPremises: z.boolean(),
  /** Its reading gets worse: nothing is put there but by hand. */
  ailing: z.boolean(),
  capacity: byteCountSchema,
  /** Of one that is away: when it was seen last. */
  free: byteCountSchema,
  reserve: byteCountSchema,
  reads: rateSchema,
  writes: rateSchema,
});
export type StockRack = z.infer<typeof stockRackSchema>;

export const stockCopySchema = z.object({
  id: copyIdSchema,
  archiveId: archiveIdSchema,
  rackId: rackIdSchema,
  bytes: byteCountSchema,
  /** Known to be: it is repaired before it goes anywhere. */
  damaged: z.boolean(),
});
export type StockCopy = z.infer<typeof stockCopySchema>;

export const stockArchiveSchema = z.object({
  id: archiveIdSchema,
  deviceId: deviceIdSchema,
  customerId: idSchema,
  deviceName: z.string(),
  customerName: z.string(),
  ticketNumber: z.string(),
  /** Of its newest backup. */
  takenAt: instantSchema,
});
export type StockArchive = z.infer<typeof stockArchiveSchema>;

/** Where archives can lie. */
export const stockRacksSchema = z.object({
  racks: z.array(stockRackSchema),
  /** The house rules want a copy of each off the premises: one that is there does not lose it. */
  keepsOffPremises: z.boolean(),
});
export type StockRacks = z.infer<typeof stockRacksSchema>;

/** Some of the archives that lie there, the largest copies first. */
export const stockPageSchema = z.object({
  /** Of every archive all copies, wherever they are. */
  copies: z.array(stockCopySchema),
  archives: z.array(stockArchiveSchema),
  /** What to ask the next ones after; null where these were the last. */
  next: z.string().nullable(),
});
export type StockPage = z.infer<typeof stockPageSchema>;

/** What lies where: what moves are judged by. */
export interface Lying extends StockRacks {
  copies: StockCopy[];
}

/** And what it is: what a move plan is made from. */
export interface Stock extends Lying {
  archives: StockArchive[];
}

/** More archives than these are not moved by one plan: the largest are, and the others count as what else lies there. */
const ARCHIVES_AT_MOST = 10_000;

/**
 * All that a plan is made from, asked for a page at a time.
 * @param also a rack that is away and that somebody names
 * @param pageOf what lies on some racks, after a place: the first page after `''`
 */
export async function wholeStock(
  { racks, keepsOffPremises }: StockRacks,
  also: RackId | undefined,
  pageOf: (on: RackId[], after: string) => Promise<StockPage>,
): Promise<Stock> {
  const on = racks.filter(({ here, id }) => here || id === also).map(({ id }) => id);
  const archives = new Map<string, StockArchive>();
  const copies = new Map<string, StockCopy>();
  let next = on.length > 0 ? '' : null;
  while (next !== null && archives.size < ARCHIVES_AT_MOST) {
    const page: StockPage = await pageOf(on, next);
    // With two copies here it comes with each; the later knows better.
    for (const archive of page.archives) archives.set(archive.id, archive);
    for (const copy of page.copies) copies.set(copy.id, copy);
    ({ next } = page);
  }
  return {
    racks,
    keepsOffPremises,
    copies: [...copies.values()],
    archives: [...archives.values()],
  };
}
