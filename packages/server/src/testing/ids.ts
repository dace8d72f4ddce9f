import { randomUUID } from 'node:crypto';
import {
  archiveIdSchema,
  backupIdSchema,
  copyIdSchema,
  deviceIdSchema,
  rackIdSchema,
} from '@bright-cellar/core';

/** Things that are made up for a test. */
export const newDeviceId = () => deviceIdSchema.parse(randomUUID());
export const newArchiveId = () => archiveIdSchema.parse(randomUUID());
export const newBackupId = () => backupIdSchema.parse(randomUUID());
export const newCopyId = () => copyIdSchema.parse(randomUUID());
export const newRackId = () => rackIdSchema.parse(randomUUID());
