import {
  byteCountSchema as byteCount,
  deviceFactsSchema,
  idSchema as id,
} from '@bright-cellar/core';
import { z } from 'zod';

/** Storage that is mounted on this computer and is no rack. Bytes. */
export const storagePlaceSchema = z.object({
  path: z.string(),
  capacity: byteCount,
  free: byteCount,
});

export type StoragePlace = z.infer<typeof storagePlaceSchema>;

export const conditionSchema = z.object({
  id: z.string(),
  label: z.string(),
  met: z.boolean(),
  reading: z.string(),
  remedy: z.string().nullable(),
  steps: z.array(z.string()),
  weight: z.enum(['must', 'accept', 'note']),
  otherwise: z.string().nullable(),
});

export const berthSchema = z.object({
  number: z.int(),
  connection: z.enum(['cable', 'network']),
  device: deviceFactsSchema.nullable(),
  /** What the device here says of itself that cannot be so; empty where there is none, or nothing odd. */
  odd: z.array(z.string()),
  /** What must hold before a backup may start, as the server judges it. */
  readiness: z.array(conditionSchema),
  /** What the device will ask its owner for next. */
  asks: z.array(z.string()),
  ticketNumber: z.string().nullable(),
  customerName: z.string().nullable(),
});

export type Berth = z.infer<typeof berthSchema>;

export const benchSchema = z.object({
  /** False while the bench process does not answer. */
  connected: z.boolean(),
  /** It takes storage that is mounted on this computer. */
  storage: z.boolean(),
  berths: z.array(berthSchema),
  /** Devices that went away in the middle of an operation and are expected back. */
  away: z.array(z.object({ deviceId: z.string(), name: z.string(), berth: z.int() })),
});

export type BenchView = z.infer<typeof benchSchema>;

/** A folder that somebody recovered from a device. Its name is as they gave it. */
export const recoveredFolderSchema = z.object({
  rackId: id,
  rackName: z.string(),
  name: z.string(),
});

export type RecoveredFolder = z.infer<typeof recoveredFolderSchema>;
