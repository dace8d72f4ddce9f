import {
  planModes,
  choiceSchema,
  ticketNumberSchema as ticketNumber,
  mappingSchema,
  knownPasswordSchema as knownPassword,
  archiveIdSchema as archiveId,
} from '@bright-cellar/core';
import { z } from 'zod';
import {
  packageToldSchema,
  fileToldSchema,
  listingSchema,
  planCostSchema,
  planSchema,
  furtherCostSchema,
} from '../shapes/index.js';
import { route } from './define.js';

const scope = {
  mode: z.enum(planModes),
  /** Looked at where the mode is `chosen`. */
  choice: choiceSchema,
  encrypted: z.boolean(),
};

export const plansRoutes = {
  applicationPackages: route(
    'GET',
    '/api/tickets/:number/application-packages',
    'restore',
    'Packages of applications that lie on racks for a ticket.',
    { params: z.object({ number: ticketNumber }) },
    z.array(packageToldSchema),
  ),
  mapMessageFile: route(
    'POST',
    '/api/tickets/:number/message-files/:id/mapping',
    'restore',
    'Say how an open file of messages is to be read, and whose numbers the names in it are.',
    {
      params: z.object({ number: ticketNumber, id: z.uuid() }),
      body: z.object({
        mapping: mappingSchema,
        numbers: z.record(z.string().max(400), z.string().max(60)),
      }),
      isLong: true,
    },
    fileToldSchema,
  ),
  applications: route(
    'GET',
    '/api/tickets/:number/applications',
    'take-out',
    'The applications on the ticket’s device.',
    { params: z.object({ number: ticketNumber }) },
    z.array(
      z.object({
        id: z.string(),
        name: z.string(),
        items: z.int(),
        bytes: z.int(),
        sealed: z.boolean(),
        /** Whether it keeps chats that can be taken out by themselves. */
        chats: z.boolean(),
      }),
    ),
  ),
  listing: route(
    'GET',
    '/api/tickets/:number/listing',
    'back-up',
    'Everything on the ticket’s device, for choosing from. Names only where looking inside was agreed. On record.',
    { params: z.object({ number: ticketNumber }) },
    listingSchema,
  ),
  planCost: route(
    'POST',
    '/api/tickets/:number/costs',
    'back-up',
    'How large and how long a backup would be, and where it would go. Reads a sample of the device.',
    { isLong: true, params: z.object({ number: ticketNumber }), body: z.object(scope) },
    planCostSchema,
  ),
  plans: route(
    'GET',
    '/api/tickets/:number/plans',
    'back-up',
    'Plans that suit the ticket’s device: the remembered one first.',
    { params: z.object({ number: ticketNumber }) },
    z.array(planSchema),
  ),
  savePlan: route(
    'POST',
    '/api/tickets/:number/plans',
    'back-up',
    'Keep a plan under a name, for every device of that family.',
    {
      isLong: true,
      params: z.object({ number: ticketNumber }),
      body: z.object({
        ...scope,
        name: z.string().trim().min(1, 'Give the plan a name.').max(60),
      }),
    },
    z.array(planSchema),
  ),
  furtherCost: route(
    'POST',
    '/api/tickets/:number/further-costs',
    'back-up',
    'What a further backup into an archive of the ticket’s device would send and cost. Reads a sample of the device.',
    {
      isLong: true,
      triesPassword: true,
      params: z.object({ number: ticketNumber }),
      body: knownPassword.safeExtend({ ...scope, archiveId }),
    },
    furtherCostSchema,
  ),
} as const;
