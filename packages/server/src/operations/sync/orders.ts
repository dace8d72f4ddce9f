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
export const partnerFileOrder = order(
  'partner-file',
  mine.extend({ kind: z.enum(syncedKinds) }),
  z.object({ text: z.string() }),
);
export const closePartnerOrder = order('close-partner', mine, z.object({}));
export const setUpSyncOrder = order(
  'set-up-sync',
  mine.extend({ deviceId: linkDeviceSchema, setup: syncSetupSchema }),
  z.object({}),
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
