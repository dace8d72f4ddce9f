import { z } from 'zod';
import { foundSchema } from '../shapes/index.js';
import { route } from './define.js';

export const findRoutes = {
  find: route(
    'GET',
    '/api/find',
    'see',
    'Tickets, archives and devices that match a few typed letters.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(foundSchema),
  ),
} as const;
