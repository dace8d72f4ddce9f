import { visitReasonIds } from '@bright-cellar/core';
import { z } from 'zod';
import type { Access, Route } from './route.js';
import {
  archiveRowSchema,
  archiveSchema,
  backupSchema,
  benchSchema,
  comparedSchema,
  conditionSchema,
  customerSchema,
  foundSchema,
  operationSchema,
  packageSchema,
  proofLevelSchema,
  rackSchema,
  sessionSchema,
  ticketRowSchema,
  ticketSchema,
} from './shapes.js';

const nothing = z.object({});
const id = z.uuid();
const ticketNumber = z.string().regex(/^\d{6,12}$/, 'A ticket number is digits only.');
const deviceId = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/);
/** A password of a backup. It stands in bodies only, is never stored and never logged. */
const backupPassword = z.string().min(1, 'Type the password.').max(1024);
const serialTail = z.string().trim().length(4, 'Type the last four characters of the serial.');

type Parts = Partial<{ params: z.ZodType; query: z.ZodType; body: z.ZodType }>;

function route<const P extends Parts, R extends z.ZodType>(
  method: Route['method'],
  path: string,
  summary: string,
  parts: P,
  response: R,
  access: Access = 'technician',
) {
  return {
    method,
    path,
    summary,
    access,
    params: (parts.params ?? nothing) as P['params'] extends z.ZodType
      ? P['params']
      : typeof nothing,
    query: (parts.query ?? nothing) as P['query'] extends z.ZodType ? P['query'] : typeof nothing,
    body: (parts.body ?? nothing) as P['body'] extends z.ZodType ? P['body'] : typeof nothing,
    response,
  };
}

export const newTicketSchema = z.object({
  customer: z.union([
    z.object({ id }),
    z.object({
      name: z.string().trim().min(1, 'Type the customer’s name.').max(120),
      phone: z.string().trim().max(40),
      email: z.string().trim().max(254),
    }),
  ]),
  /** The device as it is on the bench: its facts are read by the server. */
  deviceId,
  reason: z.enum(visitReasonIds),
  agreedBackup: z.boolean(),
  keepDays: z.int().min(0).max(3650),
  promisedAt: z.iso.datetime().nullable(),
  notes: z.string().max(2000),
});
export type NewTicket = z.infer<typeof newTicketSchema>;

export const newBackupSchema = z.object({
  /** Where a new archive goes; null when it goes into one that is there. */
  rackId: id.nullable(),
  /** The archive that it goes into, with that archive’s password; null for a new one on the rack. */
  archiveId: id.nullable(),
  password: backupPassword,
  /** Who holds the password, and what reminds them of it. Neither is the password. */
  passwordHolder: z.enum(['customer', 'shop', 'both']),
  reminder: z.string().trim().max(200),
});
export type NewBackup = z.infer<typeof newBackupSchema>;

/** Every route there is. */
export const routes = {
  signIn: route(
    'POST',
    '/api/session',
    'Sign in. Sets the session cookie.',
    {
      body: z.object({
        login: z.string().min(1, 'Type your name.').max(60),
        password: z.string().min(1, 'Type your password.').max(1024),
      }),
    },
    sessionSchema,
    'anyone',
  ),
  session: route(
    'GET',
    '/api/session',
    'Who is signed in; null when nobody is.',
    {},
    sessionSchema.nullable(),
    'anyone',
  ),
  signOut: route(
    'DELETE',
    '/api/session',
    'Sign out. The session ends everywhere at once.',
    {},
    nothing,
  ),

  bench: route('GET', '/api/bench', 'Every berth and the device on it.', {}, benchSchema),
  racks: route('GET', '/api/racks', 'Every rack with its room.', {}, z.array(rackSchema)),
  find: route(
    'GET',
    '/api/find',
    'Tickets, archives and devices that match a few typed letters.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(foundSchema),
  ),
  customers: route(
    'GET',
    '/api/customers',
    'Customers whose name, phone or address matches.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(customerSchema),
  ),

  tickets: route(
    'GET',
    '/api/tickets',
    'Open tickets, newest first.',
    {},
    z.array(ticketRowSchema),
  ),
  newTicket: route(
    'POST',
    '/api/tickets',
    'Open a ticket for a device on the bench.',
    { body: newTicketSchema },
    ticketSchema,
  ),
  ticket: route(
    'GET',
    '/api/tickets/:number',
    'One ticket with its run sheet.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  agreeToBackup: route(
    'POST',
    '/api/tickets/:number/agreement',
    'Note that the customer agreed to a backup.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),

  startBackup: route(
    'POST',
    '/api/tickets/:number/backups',
    'Take a full encrypted backup of the ticket’s device.',
    { params: z.object({ number: ticketNumber }), body: newBackupSchema },
    operationSchema,
  ),
  operation: route(
    'GET',
    '/api/operations/:id',
    'One operation.',
    { params: z.object({ id }) },
    operationSchema,
  ),
  operations: route(
    'GET',
    '/api/operations',
    'Operations that are running.',
    {},
    z.array(operationSchema),
  ),
  stopOperation: route(
    'POST',
    '/api/operations/:id/stop',
    'Ask an operation to stop.',
    { params: z.object({ id }) },
    operationSchema,
  ),

  continueOperation: route(
    'POST',
    '/api/operations/:id/continue',
    'Let a backup that was cut off go on from what is on the rack.',
    { params: z.object({ id }), body: z.object({ password: backupPassword }) },
    operationSchema,
  ),
  discardOperation: route(
    'POST',
    '/api/operations/:id/discard',
    'Give up a backup that was cut off, and free its space on the rack.',
    { params: z.object({ id }) },
    operationSchema,
  ),

  archives: route(
    'GET',
    '/api/archives',
    'Every archive, newest first.',
    {},
    z.array(archiveRowSchema),
  ),
  archive: route(
    'GET',
    '/api/archives/:id',
    'One archive with its backups, proofs and copies.',
    { params: z.object({ id }) },
    archiveSchema,
  ),
  startProof: route(
    'POST',
    '/api/backups/:id/proofs',
    'Look at a backup’s archive as closely as asked. A wrong password is answered before anything else happens.',
    {
      params: z.object({ id }),
      body: z.object({
        level: proofLevelSchema,
        /** Empty for the level `bytes`, which needs none. */
        password: z.string().max(1024),
      }),
    },
    operationSchema,
  ),
  compareDevice: route(
    'POST',
    '/api/archives/:id/compare',
    'What of a device on the bench the archive has as it is, and what a backup would send.',
    { params: z.object({ id }), body: z.object({ deviceId, password: backupPassword }) },
    comparedSchema,
  ),
  changePassword: route(
    'POST',
    '/api/archives/:id/holder',
    'Give the archive another password. Rewrites one small file.',
    {
      params: z.object({ id }),
      body: z.object({
        password: backupPassword,
        newPassword: backupPassword,
        passwordHolder: z.enum(['customer', 'shop', 'both']),
        reminder: z.string().trim().max(200),
      }),
    },
    archiveSchema,
  ),
  packages: route(
    'GET',
    '/api/packages',
    'Packages that lie on racks.',
    {},
    z.array(packageSchema),
  ),
  startExport: route(
    'POST',
    '/api/backups/:id/exports',
    'Write a backup as one file that opens without this program.',
    { params: z.object({ id }), body: z.object({ rackId: id, password: backupPassword }) },
    operationSchema,
  ),
  startImport: route(
    'POST',
    '/api/archives/:id/imports',
    'Take the backup of a package into an archive.',
    {
      params: z.object({ id }),
      body: z.object({
        rackId: id,
        name: z.string().min(1).max(255),
        password: backupPassword,
        /** Empty when it is the archive’s. */
        packagePassword: z.string().max(1024),
      }),
    },
    operationSchema,
  ),
  restoreTarget: route(
    'GET',
    '/api/backups/:id/targets/:deviceId',
    'Whether a device on the bench can take this backup, condition by condition.',
    { params: z.object({ id, deviceId }) },
    z.object({ backup: backupSchema, conditions: z.array(conditionSchema) }),
  ),
  startRestore: route(
    'POST',
    '/api/backups/:id/restores',
    'Restore a backup onto an empty device.',
    {
      params: z.object({ id }),
      body: z.object({ deviceId, serialTail, password: backupPassword }),
    },
    operationSchema,
  ),
  eraseReadiness: route(
    'GET',
    '/api/devices/:deviceId/erase',
    'Whether a device may be erased, and what would be lost.',
    { params: z.object({ deviceId }) },
    z.object({
      allowed: z.boolean(),
      /** Why not, or which proven backup makes it safe. */
      because: z.string(),
      next: z.string().nullable(),
      loses: z.string(),
    }),
  ),
  startErase: route(
    'POST',
    '/api/devices/:deviceId/erase',
    'Erase a device that has a proven backup of what is on it.',
    { params: z.object({ deviceId }), body: z.object({ serialTail }) },
    operationSchema,
  ),

  openApi: route('GET', '/api/openapi.json', 'This document.', {}, z.unknown(), 'anyone'),
} as const;

export type RouteName = keyof typeof routes;
