import {
  ticketNumberSchema as ticketNumber,
  scheduleSchema,
  idSchema as id,
  knownPasswordSchema as knownPassword,
} from '@bright-cellar/core';
import { z } from 'zod';
import { regularWorkSchema, regularExtractSchema } from '../shapes/index.js';
import { route } from './define.js';

export const regularRoutes = {
  regularWork: route(
    'GET',
    '/api/schedules',
    'see',
    'What is taken regularly, backups and open files: next due, missed, done.',
    {},
    z.array(regularWorkSchema),
  ),
  schedule: route(
    'POST',
    '/api/tickets/:number/schedule',
    'back-up',
    'Back the ticket’s device up regularly, or take an open file out of it; or every open ticket’s device of the same customer.',
    {
      params: z.object({ number: ticketNumber }),
      body: z.object({
        schedule: scheduleSchema,
        wholeCustomer: z.boolean(),
        /** Null for a backup of everything. */
        extract: regularExtractSchema.nullable(),
      }),
    },
    z.array(regularWorkSchema),
  ),
  endSchedule: route(
    'DELETE',
    '/api/schedules/:id',
    'back-up',
    'Not regularly any more.',
    { params: z.object({ id }) },
    z.array(regularWorkSchema),
  ),
  armSchedule: route(
    'POST',
    '/api/schedules/:id/arm',
    'back-up',
    'Type the password of its archive: it is tried, and held in memory for fifteen days at most.',
    { triesPassword: true, params: z.object({ id }), body: knownPassword },
    z.array(regularWorkSchema),
  ),
} as const;
