import {
  rackSiteSchema,
  rackKindSchema,
  rackIdSchema as rackId,
  rackHealthSchema,
  idSchema as id,
} from '@bright-cellar/core';
import { stockPageSchema, stockRacksSchema } from '@bright-cellar/core/placement';
import { z } from 'zod';
import {
  rackSchema,
  elevationSchema,
  rackPlaceSchema,
  triedRackSchema,
  rackRulesSchema,
  strangerSchema,
  rackInFullSchema,
  listQuery,
  rackCopySorts,
  pageOf,
  rackCopySchema,
  lookSchema,
  plannedNowSchema,
  moveStepSchema,
  careSchema,
} from '../shapes/index.js';
import { route, nothing } from './define.js';

/** Where a rack is to be, and what one signs in with there. */
const rackPlace = z.object({ site: rackSiteSchema, secret: z.string().max(20_000) });

export const racksRoutes = {
  racks: route('GET', '/api/racks', 'see', 'Every rack with its room.', {}, z.array(rackSchema)),
  elevations: route(
    'GET',
    '/api/racks/elevations',
    'see',
    'What every rack is drawn of, and when it will be full.',
    {},
    z.array(elevationSchema),
  ),
  rackPlaces: route(
    'GET',
    '/api/racks/places',
    'see',
    'Drives and shares that are mounted and are no racks yet.',
    {},
    z.array(rackPlaceSchema),
  ),
  tryRack: route(
    'POST',
    '/api/racks/try',
    'look-after-racks',
    'Write, read back and time a test file in a place that is to become a rack.',
    { body: rackPlace },
    triedRackSchema,
  ),
  hostKey: route(
    'POST',
    '/api/racks/host-key',
    'look-after-racks',
    'The host key that a box shows, for a person to compare. Nobody signs in.',
    {
      body: z.object({ host: z.string().trim().min(1).max(253), port: z.int().min(1).max(65_535) }),
    },
    z.object({ hostKey: z.string() }),
  ),
  addRack: route(
    'POST',
    '/api/racks',
    'look-after-racks',
    'Make a rack of a place, or take one up again that lies there.',
    { body: rackRulesSchema.extend({ ...rackPlace.shape, kind: rackKindSchema }) },
    rackSchema,
  ),
  strangers: route(
    'GET',
    '/api/bring-ins',
    'see',
    'Archives that lie on racks, or below a folder of the shop computer, and are not in the catalogue.',
    { query: z.object({ path: z.string().max(4096).default('') }) },
    z.array(strangerSchema),
  ),
  rack: route(
    'GET',
    '/api/racks/:id',
    'see',
    'One rack, what it is drawn of, and its room day by day.',
    { params: z.object({ id: rackId }) },
    rackInFullSchema,
  ),
  rackCopies: route(
    'GET',
    '/api/racks/:id/copies',
    'see',
    'What lies on a rack, a page at a time.',
    {
      params: z.object({ id: rackId }),
      query: listQuery(rackCopySorts, 'stored').omit({ text: true }),
    },
    pageOf(rackCopySchema),
  ),
  rackLooks: route(
    'GET',
    '/api/racks/:id/looks',
    'see',
    'The looks at what lies on a rack, the newest first, and whether it ails.',
    { params: z.object({ id: rackId }) },
    z.object({ looks: z.array(lookSchema), health: rackHealthSchema }),
  ),
  stock: route(
    'GET',
    '/api/moves/stock',
    'see',
    'The racks as a move plan sees them.',
    {},
    stockRacksSchema,
  ),
  stockPage: route(
    'GET',
    '/api/moves/stock/archives',
    'see',
    'What lies on some racks, a page at a time: what a move plan is made from.',
    {
      query: z.object({
        /** Their ids, with commas. */
        on: z
          .string()
          .transform((ids) => ids.split(','))
          .pipe(z.array(rackId).max(100)),
        after: z.string().max(200).default(''),
      }),
    },
    stockPageSchema,
  ),
  plannedMoves: route(
    'GET',
    '/api/moves/planned',
    'see',
    'Moves that a plan which is being carried out is still to make.',
    {},
    z.array(plannedNowSchema),
  ),
  lastMove: route(
    'GET',
    '/api/moves/last',
    'see',
    'The plan that was carried out last, or is being.',
    {},
    z.object({ id: id.nullable() }),
  ),
  moveSteps: route(
    'GET',
    '/api/moves/:id/steps',
    'see',
    'The moves of a plan that is carried out, in their order, and how far each is.',
    { params: z.object({ id }) },
    z.array(moveStepSchema),
  ),
  care: route(
    'GET',
    '/api/care',
    'see',
    'Copies that are owed, and checks that are due.',
    {},
    careSchema,
  ),
  payOwed: route(
    'POST',
    '/api/care/pay',
    'copy',
    'Make the copies that are owed and can be made, one after the other.',
    {},
    careSchema,
  ),
  changeRack: route(
    'PUT',
    '/api/racks/:id',
    'look-after-racks',
    'Give a rack another name, reserve or note.',
    { params: z.object({ id: rackId }), body: rackRulesSchema },
    rackSchema,
  ),
  retireRack: route(
    'POST',
    '/api/racks/:id/retire',
    'look-after-racks',
    'Put a rack out of use. What lies there is kept, and known, and counts no more.',
    {
      params: z.object({ id: rackId }),
      /** Its name, typed: needed where archives lie there. */
      body: z.object({ typedName: z.string() }),
    },
    nothing,
  ),
} as const;
