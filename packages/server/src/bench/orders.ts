import { z } from 'zod';
import { order } from '../engine/orders.js';

/** Another adapter was named: it is the one to ask from now on. */
export const turnLinkOrder = order('turn-link', z.object({}), z.object({}));
