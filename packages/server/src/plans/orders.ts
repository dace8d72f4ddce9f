import { entrySchema } from '@bright-cellar/device-link';
import { linkDeviceSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { order } from '../engine/orders.js';

/** Reads a few entries of a device and says what they would take on a rack, and how long they took. Nothing is kept. */
export const measureOrder = order(
  'measure',
  z.object({ device: linkDeviceSchema, entries: z.array(entrySchema).max(2000) }),
  z.array(
    z.object({
      id: z.string(),
      /** Bytes read of it: all, or its beginning. */
      bytes: z.int(),
      storedBytes: z.int(),
      ms: z.number(),
      /** Of what was read. */
      digest: z.string(),
    }),
  ),
);
export type Measured = z.infer<typeof measureOrder.answers>;
