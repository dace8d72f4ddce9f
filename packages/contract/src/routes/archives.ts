import {
  archiveIdSchema as archiveId,
  backupPasswordSchema as backupPassword,
  passwordHolderShape,
  operations,
} from '@bright-cellar/core';
import { z } from 'zod';
import {
  archiveSchema,
  keepingSchema,
  dueRowSchema,
  disposalSchema,
  listQuery,
  archiveSorts,
  pageOf,
  archiveRowSchema,
  archivesSummarySchema,
  packageSchema,
} from '../shapes/index.js';
import { route } from './define.js';

const keepReason = z.string().trim().min(1, 'Say why.').max(300);

/** Who they are, proved by their own sign-in, and the phrase that only they know. */
const escrowPerson = z.object({
  login: z.string().min(1).max(60),
  password: z.string().min(1).max(1024),
  phrase: z.string().min(1).max(1024),
});

export const archivesRoutes = {
  escrow: route(
    'GET',
    '/api/escrow',
    'see',
    'Whether the shop has an escrow, and whose two phrases open it.',
    {},
    z.object({ people: z.array(z.string()), since: z.iso.datetime().nullable() }),
  ),
  setUpEscrow: route(
    'POST',
    '/api/escrow',
    'escrow',
    'Set the shop’s escrow up: two people, each with a phrase of their own. Archives made before keep theirs.',
    { triesPassword: true, body: z.object({ people: z.tuple([escrowPerson, escrowPerson]) }) },
    z.object({ people: z.array(z.string()), since: z.iso.datetime().nullable() }),
  ),
  openByEscrow: route(
    'POST',
    '/api/archives/:id/escrow',
    'escrow',
    'Two people together give an archive whose password is lost another one. On record.',
    {
      triesPassword: true,
      params: z.object({ id: archiveId }),
      body: z.object({
        people: z.tuple([escrowPerson, escrowPerson]),
        newPassword: backupPassword,
        ...passwordHolderShape,
      }),
    },
    archiveSchema,
  ),
  weighPruning: route(
    'POST',
    '/api/archives/:id/prunings/weigh',
    'prune',
    'What taking backups out of an archive would free.',
    {
      triesPassword: true,
      params: z.object({ id: archiveId }),
      body: operations.prune.start.body,
    },
    z.object({ freedBytes: z.int() }),
  ),
  keeping: route(
    'GET',
    '/api/archives/:id/keeping',
    'see',
    'How long an archive is kept, and why.',
    { params: z.object({ id: archiveId }) },
    keepingSchema,
  ),
  keepLonger: route(
    'POST',
    '/api/archives/:id/keeping',
    'keep',
    'Keep an archive longer than was agreed: until a day, or until somebody is told.',
    {
      params: z.object({ id: archiveId }),
      body: z.object({ until: z.iso.date().nullable(), reason: keepReason }),
    },
    keepingSchema,
  ),
  hold: route(
    'POST',
    '/api/archives/:id/hold',
    'keep',
    'Hold an archive: nobody destroys it until the hold is lifted.',
    { params: z.object({ id: archiveId }), body: z.object({ reason: keepReason }) },
    keepingSchema,
  ),
  liftHold: route(
    'DELETE',
    '/api/archives/:id/hold',
    'keep',
    'Lift the hold on an archive.',
    { params: z.object({ id: archiveId }) },
    keepingSchema,
  ),
  due: route(
    'GET',
    '/api/keeping',
    'see',
    'What is kept no longer by what was agreed, what is held, and what was destroyed.',
    {},
    z.object({
      due: z.array(dueRowSchema),
      dueTotal: z.int(),
      held: z.array(dueRowSchema),
      disposals: z.array(disposalSchema),
    }),
  ),
  archives: route(
    'GET',
    '/api/archives',
    'see',
    'Archives, a page at a time.',
    { query: listQuery(archiveSorts, 'taken') },
    pageOf(archiveRowSchema).extend({
      /** What was looked for instead, where nothing has a word that was typed; empty otherwise. */
      readAs: z.string(),
    }),
  ),
  archivesSummary: route(
    'GET',
    '/api/archives/summary',
    'see',
    'How many archives there are, what they come to, and what is wrong with them.',
    {},
    archivesSummarySchema,
  ),
  archive: route(
    'GET',
    '/api/archives/:id',
    'see',
    'One archive with its backups, proofs and copies.',
    { params: z.object({ id: archiveId }) },
    archiveSchema,
  ),
  changePassword: route(
    'POST',
    '/api/archives/:id/holder',
    'change-passwords',
    'Give the archive another password. Rewrites one small file.',
    {
      triesPassword: true,
      params: z.object({ id: archiveId }),
      body: z.object({
        password: backupPassword,
        newPassword: backupPassword,
        ...passwordHolderShape,
      }),
    },
    archiveSchema,
  ),
  packages: route(
    'GET',
    '/api/packages',
    'see',
    'Packages that lie on racks.',
    {},
    z.array(packageSchema),
  ),
} as const;
