import {
  ticketNumberSchema as ticketNumber,
  newMigrationSchema,
  backupIdSchema as backupId,
  linkDeviceSchema as deviceId,
  chosenPartSchema,
} from '@bright-cellar/core';
import { z } from 'zod';
import {
  classExamplesSchema,
  operationSchema,
  restoreChoicesSchema,
  backupSchema,
  conditionSchema,
} from '../shapes/index.js';
import { route } from './define.js';

export const restoreRoutes = {
  crossingExamples: route(
    'GET',
    '/api/operations/:id/examples',
    'look-in',
    'Single items of a loss report, as they were and as they will arrive. The customer agreed that the shop looks inside.',
    { params: z.object({ id: z.uuid() }) },
    z.array(classExamplesSchema),
  ),
  startMigration: route(
    'POST',
    '/api/tickets/:number/migrations',
    'restore',
    'Old to new: take a backup of the ticket’s device, and send it onto another of its family while it is taken. Answers with the restore.',
    { params: z.object({ number: ticketNumber }), body: newMigrationSchema },
    operationSchema,
  ),
  restoreChoices: route(
    'GET',
    '/api/backups/:id/beside',
    'see',
    'Every backup of the device that a backup is of, and which of them should go back.',
    { params: z.object({ id: backupId }) },
    restoreChoicesSchema,
  ),
  ticketRestoreChoices: route(
    'GET',
    '/api/tickets/:number/restorable',
    'see',
    'Every backup of the ticket’s device, of whichever visit, and which of them should go back.',
    { params: z.object({ number: ticketNumber }) },
    restoreChoicesSchema,
  ),
  restoreTarget: route(
    'GET',
    '/api/backups/:id/targets/:deviceId',
    'restore',
    'Whether a device on the bench can take this backup, condition by condition.',
    { params: z.object({ id: backupId, deviceId }) },
    z.object({
      backup: backupSchema,
      /** For all of it, as it was. */
      conditions: z.array(conditionSchema),
      /** For a chosen part of it, or onto another family. */
      crossing: z.array(conditionSchema),
      isSameFamily: z.boolean(),
      /** What part of it was last asked for, for this device. */
      lastPart: chosenPartSchema.nullable(),
    }),
  ),
  eraseReadiness: route(
    'GET',
    '/api/devices/:deviceId/erase',
    'see',
    'Whether a device may be erased, and what would be lost.',
    { params: z.object({ deviceId }) },
    z.object({
      allowed: z.boolean(),
      /** Why not, or which proven backup makes it safe. */
      because: z.string(),
      next: z.string().nullable(),
      loses: z.string(),
    }),
  ),
} as const;
