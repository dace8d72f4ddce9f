import { z } from 'zod';
import {
  byteCountSchema,
  instantSchema,
  itemCountSchema,
  archiveIdSchema,
  backupIdSchema,
} from '../values/index.js';

/** An archive as it is on its medium after a change was decided. */
export const archiveStateSchema = z.object({
  /** Bytes of its payload: what it takes on the rack. */
  payloadBytes: byteCountSchema,
  /** SHA-512 of its manifest. */
  manifestDigest: z.string(),
  generation: z.int(),
});
export type ArchiveState = z.infer<typeof archiveStateSchema>;

/** A backup that is whole on its medium. */
export const committedBackupSchema = archiveStateSchema.extend({
  archive: archiveIdSchema,
  backup: backupIdSchema,
  takenAt: instantSchema,
  items: itemCountSchema,
  bytes: byteCountSchema,
  failed: itemCountSchema,
  storedBytes: byteCountSchema,
  newItems: itemCountSchema,
  newBytes: byteCountSchema,
  /** SHA-512 of its list. */
  listDigest: z.string(),
});
export type CommittedBackup = z.infer<typeof committedBackupSchema>;

/** As a device's backup says whose it is. */
export const backedUpDeviceSchema = z.object({
  family: z.string(),
  familyName: z.string(),
  kind: z.string(),
  model: z.string(),
  name: z.string(),
  serial: z.string(),
  osName: z.string(),
  osVersion: z.string(),
});
