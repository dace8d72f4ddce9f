import { classExamplesSchema } from '@bright-cellar/contract';
import { z } from 'zod';
import { order } from '../../engine/orders.js';

/** Single items of a loss report, by the work that made it. */
export const examplesOrder = order(
  'crossing-examples',
  z.object({ id: z.uuid() }),
  z.array(classExamplesSchema),
);
