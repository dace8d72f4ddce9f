import {
  instantSchema as instant,
  idSchema as id,
  byteCountSchema as byteCount,
} from '@bright-cellar/core';
import { z } from 'zod';

/** What was said of how long an archive is kept. */
export const keepingSchema = z.object({
  /** From when it is kept no longer; null where that is not in sight. */
  dueAt: instant.nullable(),
  /** The visit is open, or it is kept until somebody is told. */
  untilTold: z.boolean(),
  hold: z.object({ reason: z.string(), by: z.string(), at: instant }).nullable(),
  /** What keeps it longer than was agreed on its tickets; null where nothing does. */
  longer: z.object({ reason: z.string(), by: z.string(), until: instant.nullable() }).nullable(),
});

export type Keeping = z.infer<typeof keepingSchema>;

/** An archive in the list of what is due, or held. */
export const dueRowSchema = z.object({
  archiveId: id,
  customerName: z.string(),
  phone: z.string(),
  deviceName: z.string(),
  ticketNumber: z.string(),
  takenAt: instant,
  storedBytes: byteCount,
  rackName: z.string(),
  dueAt: instant.nullable(),
  held: z.boolean(),
});

export type DueRow = z.infer<typeof dueRowSchema>;

/** An archive that was destroyed, or is being. */
export const disposalSchema = z.object({
  id,
  number: z.int(),
  archiveId: id,
  ticketNumber: z.string(),
  deviceName: z.string(),
  /** Empty where names were let go. */
  customerName: z.string(),
  reason: z.string(),
  decidedBy: z.string(),
  decidedAt: instant,
  doneAt: instant.nullable(),
  /** Names of racks on which a copy is still owed its end. */
  owedOn: z.array(z.string()),
  copies: z.int(),
});

export type Disposal = z.infer<typeof disposalSchema>;

/** A copy that the house rules ask for and that is not there. */
export const owedCopySchema = z.object({
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  storedBytes: byteCount,
  /** How many are owed; with `offPremises`, one of them away from the shop. */
  copies: z.int(),
  offPremises: z.boolean(),
  /** Where the next of them goes; null with the reason where it cannot be made now. */
  rackName: z.string().nullable(),
  why: z.string().nullable(),
});

export type OwedCopy = z.infer<typeof owedCopySchema>;

/** How what is kept is looked after. */
export const careSchema = z.object({
  /** `isMore`: at least so many; they are not counted further. */
  owed: z.object({ total: z.int(), isMore: z.boolean(), rows: z.array(owedCopySchema) }),
  /** Copies that are here and nobody looked at for longer than the house rules allow. */
  checksDue: z.int(),
  /** Owed copies are being made one after the other, since somebody said so. */
  paying: z.boolean(),
});

export type Care = z.infer<typeof careSchema>;
