import {
  idSchema as id,
  rackKindSchema,
  instantSchema as instant,
  byteCountSchema as byteCount,
  copyStates,
  proofLevelSchema,
  proofOutcomes,
} from '@bright-cellar/core';
import { z } from 'zod';

export const rackSchema = z.object({
  id,
  name: z.string(),
  kind: rackKindSchema,
  /** Stands on its label, and as bars. */
  code: z.string(),
  /** What people know it by beside its name. */
  note: z.string(),
  offPremises: z.boolean(),
  /** Its folder, as the shop computer sees it; null for one that is not mounted there. */
  mounted: z.string().nullable(),
  /** Where it is, in one line. */
  where: z.string(),
  /** Why it is away, where it says so itself; empty otherwise. */
  awayWhy: z.string(),
  /** Whether it is here now, and when it last was; its capacity is that of then. */
  present: z.boolean(),
  seenAt: instant.nullable(),
  /** Since when it is out of use. */
  retiredAt: instant.nullable(),
  capacity: byteCount,
  /** 0 where it is away. */
  free: byteCount,
  /** Kept free: nothing is proposed that would go below this. */
  reserve: byteCount,
  /** What the catalogue says lies there. */
  archives: z.int(),
  storedBytes: byteCount,
});

export type Rack = z.infer<typeof rackSchema>;

/** A rack's name, and what else the shop decides of it. */
export const rackRulesSchema = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  note: z.string().trim().max(120),
  reserve: byteCount,
  /** It stands somewhere else than the shop: fire and thieves do not find both. */
  offPremises: z.boolean(),
});

export type RackRules = z.infer<typeof rackRulesSchema>;

/** An archive in a rack's elevation. */
export const courseSchema = z.object({
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  storedBytes: byteCount,
  state: z.enum(copyStates),
});

export type Course = z.infer<typeof courseSchema>;

/** What a rack is drawn of. */
export const elevationSchema = z.object({
  rackId: id,
  /** Its largest archives, the largest first, and what all others come to. */
  courses: z.array(courseSchema),
  others: z.object({ archives: z.int(), storedBytes: byteCount }),
  /** The days between which it will be full, four times of five; null where nobody can tell. */
  full: z.object({ early: z.iso.date(), late: z.iso.date().nullable() }).nullable(),
  /** What its own ledger of looks says is wrong with it; null where nothing is. */
  ailing: z.string().nullable(),
});

export type Elevation = z.infer<typeof elevationSchema>;

/** A rack's room at the end of a day. */
export const rackDaySchema = z.object({
  day: z.iso.date(),
  free: byteCount,
  /** What archives took of it. */
  storedBytes: byteCount,
});

export type RackDay = z.infer<typeof rackDaySchema>;

export const rackInFullSchema = z.object({
  rack: rackSchema,
  elevation: elevationSchema,
  days: z.array(rackDaySchema),
});

export type RackInFull = z.infer<typeof rackInFullSchema>;

export const rackCopySorts = ['stored'] as const;

export type RackCopySort = (typeof rackCopySorts)[number];

/** A copy in the ledger of its rack. */
export const rackCopySchema = z.object({
  archiveId: id,
  ticketNumber: z.string(),
  customerName: z.string(),
  deviceName: z.string(),
  takenAt: instant,
  storedBytes: byteCount,
  folder: z.string(),
  state: z.enum(copyStates),
  checkedAt: instant.nullable(),
  isNewest: z.boolean(),
  /** Copies of the same archive on other racks. */
  others: z.int(),
});

export type RackCopy = z.infer<typeof rackCopySchema>;

/** A look at a copy, in the ledger of its rack. */
export const lookSchema = z.object({
  id,
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  at: instant,
  by: z.string(),
  level: proofLevelSchema,
  outcome: z.enum(proofOutcomes),
  readBytes: byteCount,
  durationMs: z.int(),
  what: z.string(),
});

export type Look = z.infer<typeof lookSchema>;

/** A folder that could become a rack: a drive or share that is mounted. */
export const rackPlaceSchema = z.object({
  path: z.string(),
  capacity: byteCount,
  free: byteCount,
  /** The rack that lies there, retired or of another shop; null where none does. */
  marked: z.string().nullable(),
});

export type RackPlace = z.infer<typeof rackPlaceSchema>;

/** What a place turned out to be able to do. Bytes, and bytes a second. */
export const triedRackSchema = z.object({
  capacity: byteCount,
  free: byteCount,
  writeRate: z.number(),
  readRate: z.number(),
  isSound: z.boolean(),
  keepsFirst: z.boolean(),
});

export type TriedRack = z.infer<typeof triedRackSchema>;

/** An archive that lies somewhere and is not in the catalogue there. */
export const strangerSchema = z.object({
  /** On a rack, by its name there; or in a folder of the shop computer, by its path. */
  rackId: z.string().nullable(),
  rackName: z.string(),
  folder: z.string(),
  path: z.string().nullable(),
  storedBytes: byteCount,
  backups: z.int(),
  /** Files that it should have and has not. */
  missing: z.int(),
  /** `same`: the catalogue knows it in this very state; `other`: it knows it in another; `unknown`: it does not know it. */
  known: z.enum(['unknown', 'same', 'other']),
  /** Of the device, where the catalogue knows it. */
  deviceName: z.string(),
  /** Why it cannot be read; empty otherwise. */
  problem: z.string(),
});

export type Stranger = z.infer<typeof strangerSchema>;
