import { z } from 'zod';
import {
  archiveIdSchema,
  byteCountSchema,
  copyIdSchema,
  deviceIdSchema,
  idSchema,
  instantSchema,
  rackIdSchema,
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

/** What lies where: what a move plan is made from, and judged by. */
export const stockSchema = z.object({
  racks: z.array(stockRackSchema),
  /** Of every archive all copies, wherever they are. */
  copies: z.array(stockCopySchema),
  archives: z.array(stockArchiveSchema),
  /** The house rules want a copy of each off the premises: one that is there does not lose it. */
  keepsOffPremises: z.boolean(),
});
export type Stock = z.infer<typeof stockSchema>;
