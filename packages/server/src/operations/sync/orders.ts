import {
  askMergeLinesSchema,
  decideMergeSchema,
  joinPersonsSchema,
  mergeLinesSchema,
  openPartnerSchema,
  partnerToldSchema,
  samePersonsSchema,
} from '@bright-cellar/contract';
import { linkDeviceSchema, syncedKinds, syncSetupSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { order } from '../../engine/orders.js';

const mine = z.object({ id: z.uuid(), technicianId: z.string() });

const otherDeviceSchema = z.object({ deviceId: linkDeviceSchema, serial: z.string() });

export const openPartnerOrder = order(
  'open-partner',
  openPartnerSchema.extend({ technicianId: z.string(), deviceId: linkDeviceSchema }),
  partnerToldSchema,
);
export const openFilesOrder = order(
  'open-files',
  z.object({ technicianId: z.string(), deviceId: linkDeviceSchema, text: z.string() }),
  partnerToldSchema,
);
export const openDeviceOrder = order(
  'open-device',
  z.object({
    ...{ technicianId: z.string(), deviceId: linkDeviceSchema },
    other: otherDeviceSchema.extend({ changes: z.boolean() }),
    books: partnerToldSchema.shape.books,
  }),
  partnerToldSchema,
);
export const openBackupOrder = order(
  'open-backup',
  z.object({ technicianId: z.string(), deviceId: linkDeviceSchema, lookIn: z.uuid() }),
  partnerToldSchema,
);
export const partnerFileOrder = order(
  'partner-file',
  mine.extend({ kind: z.enum(syncedKinds) }),
  z.object({ name: z.string(), text: z.string() }),
);
/** What is needed to sign in there again, and how it is kept in step, sealed. */
export const keepPartnerOrder = order(
  'keep-partner',
  mine,
  z.object({
    sealed: z.string(),
    /** The other device's, where it is one. */
    serial: z.string().nullable(),
  }),
);
export const openKeptOrder = order(
  'open-kept',
  z.object({ technicianId: z.string(), deviceId: linkDeviceSchema, sealed: z.string() }),
  z.object({
    /** Null where it is another device, which the bench knows. */
    id: z.uuid().nullable(),
    setup: syncSetupSchema,
  }),
);
export const closePartnerOrder = order('close-partner', mine, z.object({}));
export const setUpSyncOrder = order(
  'set-up-sync',
  mine.extend({ deviceId: linkDeviceSchema, setup: syncSetupSchema }),
  z.object({ other: otherDeviceSchema.nullable(), mayWrite: z.boolean() }),
);
export const mergeLinesOrder = order(
  'merge-lines',
  mine.extend(askMergeLinesSchema.shape),
  mergeLinesSchema,
);
export const decideMergeOrder = order(
  'decide-merge',
  mine.extend(decideMergeSchema.shape),
  z.object({}),
);
export const samePersonsOrder = order('same-persons', mine, samePersonsSchema);
export const joinPersonsOrder = order(
  'join-persons',
  mine.extend(joinPersonsSchema.shape),
  z.object({}),
);
