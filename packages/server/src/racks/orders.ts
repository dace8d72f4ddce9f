import { storeAddressSchema } from '@bright-cellar/archive';
import { z } from 'zod';
import { order } from '../engine/orders.js';

const bytes = z.number().min(0);

/** Writes a file in a place, reads it back from the medium and times both. @throws Failure as the medium says */
export const tryRackOrder = order(
  'try-rack',
  z.object({ address: storeAddressSchema }),
  z.object({
    room: z.object({ capacity: bytes, free: bytes }),
    writeRate: bytes,
    readRate: bytes,
    isSound: z.boolean(),
    keepsFirst: z.boolean(),
  }),
);
