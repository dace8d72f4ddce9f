import { fileToldSchema, pictureTakenSchema } from '@bright-cellar/contract';
import { amountSchema, linkDeviceSchema, mappingSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { order } from '../../engine/orders.js';

export const holdFileOrder = order(
  'hold-file',
  z.object({ technicianId: z.string(), deviceId: linkDeviceSchema, text: z.string() }),
  fileToldSchema,
);
/** How many records it brings. */
export const heldAmountOrder = order(
  'held-amount',
  z.object({ id: z.uuid(), technicianId: z.string() }),
  amountSchema,
);
/** Takes a picture that lies beside it. */
export const holdPictureOrder = order(
  'hold-picture',
  z.object({
    ...{ id: z.uuid(), technicianId: z.string(), place: z.string().max(3000) },
    format: z.string().max(121),
    contents: z.base64(),
  }),
  pictureTakenSchema,
);
export const mapFileOrder = order(
  'map-file',
  z.object({
    id: z.uuid(),
    technicianId: z.string(),
    mapping: mappingSchema,
    numbers: z.record(z.string(), z.string()),
  }),
  fileToldSchema,
);
