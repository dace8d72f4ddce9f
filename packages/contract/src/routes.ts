import { agreementKinds, planModes, stepIds, visitReasonIds } from '@bright-cellar/core';
import { z } from 'zod';
import { deskActionIds } from './desk.js';
import type { Access, Route } from './route.js';
import {
  accountSchema,
  archiveRowSchema,
  archiveSchema,
  backupSchema,
  benchSchema,
  choiceSchema,
  conditionSchema,
  customerSchema,
  dayReportSchema,
  failedItemSchema,
  foundSchema,
  furtherCostSchema,
  knownVisitsSchema,
  listingSchema,
  operationSchema,
  packageSchema,
  planCostSchema,
  planSchema,
  proofLevelSchema,
  rackSchema,
  recordsExtractSchema,
  recoveredFolderSchema,
  regularExtractSchema,
  regularWorkSchema,
  scheduleSchema,
  sessionSchema,
  shopSettingsSchema,
  ticketRowSchema,
  ticketSchema,
} from './shapes.js';

const nothing = z.object({});
const id = z.uuid();
const ticketNumber = z.string().regex(/^\d{6,12}$/, 'A ticket number is digits only.');
const deviceId = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/);
/** A password of a backup. It stands in bodies only, is never stored and never logged. */
const backupPassword = z.string().min(1, 'Type the password.').max(1024);
/** Who they are, proved by their own sign-in, and the phrase that only they know. */
const escrowPerson = z.object({
  login: z.string().min(1).max(60),
  password: z.string().min(1).max(1024),
  phrase: z.string().min(1).max(1024),
});
/** The password of an archive that is there: typed here, or empty where the customer typed it on their own page. */
const knownPassword = z
  .object({ fromDesk: z.boolean().default(false), password: z.string().max(1024) })
  .refine(({ fromDesk, password }) => fromDesk || password !== '', {
    path: ['password'],
    message: 'Type the password.',
  });
const deskToken = z.string().regex(/^[A-Za-z0-9_-]{22}$/);
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
  /** The device on the bench, whose facts are read by the server, or what is printed on one that is dead. */
  device: z.union([
    z.object({ deviceId }),
    z.object({
      familyName: z.string().trim().min(1, 'Type the make.').max(60),
      model: z.string().trim().min(1, 'Type the model.').max(60),
      kind: z.enum(['phone', 'tablet', 'handset']),
      /** Empty where it cannot be read off. */
      serial: z.string().trim().max(64),
      imei: z.string().trim().max(20),
    }),
  ]),
  /** Somebody asked whose it is, where it came with another customer before. */
  otherOwnerConfirmed: z.boolean(),
  reason: z.enum(visitReasonIds),
  agreed: z.object({
    backup: z.boolean(),
    lookIn: z.boolean(),
    escrow: z.boolean(),
    /** 0: not kept. */
    keepDays: z.int().min(0).max(3650),
  }),
  promisedAt: z.iso.datetime().nullable(),
  notes: z.string().max(2000),
});
export type NewTicket = z.infer<typeof newTicketSchema>;

const scope = {
  mode: z.enum(planModes),
  /** Looked at where the mode is `chosen`. */
  choice: choiceSchema,
  encrypted: z.boolean(),
};

export const newBackupSchema = z.object({
  ...scope,
  /** Ids of conditions that are not met and whose price somebody accepted. */
  accepted: z.array(z.string().max(80)).max(20),
  /** Where a new archive goes; null when it goes into one that is there. */
  rackId: id.nullable(),
  /** The archive that it goes into, with that archive’s password; null for a new one on the rack. */
  archiveId: id.nullable(),
  /** The customer typed it on their own page: it is not in this request. */
  fromDesk: z.boolean(),
  /** Empty where the customer typed it on their own page, and where the backup is not encrypted. */
  password: z.string().max(1024),
  /** Who holds the password, and what reminds them of it. Neither is the password. */
  passwordHolder: z.enum(['customer', 'shop', 'both']),
  reminder: z.string().trim().max(200),
});
export type NewBackup = z.infer<typeof newBackupSchema>;

const folderName = z.string().min(1).max(255);
/** What somebody recovered from a device, taken over from the folder that it came in. */
export const newRecoveredSchema = newBackupSchema
  .pick({ fromDesk: true, password: true, passwordHolder: true, reminder: true })
  .extend({ from: z.object({ rackId: id, name: folderName }), rackId: id });
export type NewRecovered = z.infer<typeof newRecoveredSchema>;

/** Something narrow that is taken out into open files. */
export const newExtractSchema = z.object({
  rackId: id,
  what: z.discriminatedUnion('kind', [
    recordsExtractSchema,
    z.object({
      kind: z.literal('applications'),
      applications: z
        .array(z.string().regex(/^[A-Za-z0-9][A-Za-z0-9._-]{0,80}$/))
        .min(1, 'Choose an application.')
        .max(200),
    }),
  ]),
});
export type NewExtract = z.infer<typeof newExtractSchema>;

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

  account: route(
    'GET',
    '/api/account',
    'Where one’s own account is signed in, and what happened to it lately.',
    {},
    accountSchema,
  ),
  endSessions: route(
    'DELETE',
    '/api/account/sessions',
    'Sign out everywhere, here too.',
    {},
    nothing,
  ),
  changeOwnPassword: route(
    'POST',
    '/api/account/sign-in',
    'Give one’s own account another password. Other browsers are signed out.',
    {
      body: z.object({
        password: z.string().min(1, 'Type your present password.').max(1024),
        newPassword: z.string().min(1, 'Type a new password.').max(1024),
      }),
    },
    accountSchema,
  ),
  bench: route('GET', '/api/bench', 'Every berth and the device on it.', {}, benchSchema),
  openDesk: route(
    'POST',
    '/api/tickets/:number/desk',
    'Open a page on which the customer types the password by themselves.',
    {
      params: z.object({ number: ticketNumber }),
      /** The one thing that it is for: a password for a new archive, or that of one which is there. */
      body: z.object({ action: z.enum(deskActionIds).default('backup') }),
    },
    z.object({
      address: z.string(),
      /** A QR code of the address, as an SVG document. */
      code: z.string(),
      until: z.iso.datetime(),
    }),
  ),
  desk: route(
    'GET',
    '/api/tickets/:number/desk',
    'Whether the customer has typed a password on their own page, or it is held for the proof, and until when.',
    { params: z.object({ number: ticketNumber }) },
    z.object({
      state: z.enum(['none', 'waiting', 'given', 'held']),
      until: z.iso.datetime().nullable(),
      action: z.enum(deskActionIds).nullable(),
      /** How often its page was opened, and by which signed-in technicians. */
      openings: z.int(),
      openedBy: z.array(z.string()),
    }),
  ),
  customerDesk: route(
    'GET',
    '/api/desk/:token',
    'What the customer’s own page is about.',
    { params: z.object({ token: deskToken }) },
    z.object({
      shopName: z.string(),
      device: z.string(),
      action: z.enum(deskActionIds),
      until: z.iso.datetime(),
      /** It was opened before: by somebody else, unless the customer did so. */
      openings: z.int(),
      /** Whoever of the shop is signed in on the computer that it is or was opened on. */
      openedBy: z.array(z.string()),
    }),
    'anyone',
  ),
  giveAtDesk: route(
    'POST',
    '/api/desk/:token',
    'The customer’s password, from their own page.',
    {
      params: z.object({ token: deskToken }),
      body: z.object({ password: backupPassword, reminder: z.string().trim().max(200) }),
    },
    nothing,
    'anyone',
  ),
  recoveredFolders: route(
    'GET',
    '/api/recovered',
    'Folders that somebody recovered from a device and that wait on a rack, under “incoming”.',
    {},
    z.array(recoveredFolderSchema),
  ),
  measureRecovered: route(
    'POST',
    '/api/recovered/measure',
    'How much such a folder holds.',
    { body: z.object({ rackId: id, name: folderName }) },
    z.object({ items: z.int(), bytes: z.int() }),
  ),
  takeOverRecovered: route(
    'POST',
    '/api/tickets/:number/recovered',
    'Take such a folder over, into a new archive of the ticket’s device.',
    { params: z.object({ number: ticketNumber }), body: newRecoveredSchema },
    operationSchema,
  ),
  startExtract: route(
    'POST',
    '/api/tickets/:number/extracts',
    'Take only the messages, the calls, one chat, or single applications out into open files on a rack.',
    { params: z.object({ number: ticketNumber }), body: newExtractSchema },
    operationSchema,
  ),
  applications: route(
    'GET',
    '/api/tickets/:number/applications',
    'The applications on the ticket’s device.',
    { params: z.object({ number: ticketNumber }) },
    z.array(
      z.object({
        id: z.string(),
        name: z.string(),
        items: z.int(),
        bytes: z.int(),
        sealed: z.boolean(),
      }),
    ),
  ),
  regularWork: route(
    'GET',
    '/api/schedules',
    'What is taken regularly, backups and open files: next due, missed, done.',
    {},
    z.array(regularWorkSchema),
  ),
  schedule: route(
    'POST',
    '/api/tickets/:number/schedule',
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
    'Not regularly any more.',
    { params: z.object({ id }) },
    z.array(regularWorkSchema),
  ),
  armSchedule: route(
    'POST',
    '/api/schedules/:id/arm',
    'Type the password of its archive: it is tried, and held in memory for fifteen days at most.',
    { params: z.object({ id }), body: knownPassword },
    z.array(regularWorkSchema),
  ),
  dayReport: route(
    'GET',
    '/api/reports/day',
    'What the bench did on a day, and how well its estimates came out.',
    { query: z.object({ day: z.iso.date() }) },
    dayReportSchema,
  ),
  updateDevice: route(
    'POST',
    '/api/devices/:deviceId/update',
    'Have a device install the update that its OS offers, where the shop’s policy allows it.',
    { params: z.object({ deviceId }), body: z.object({ serialTail }) },
    nothing,
  ),
  escrow: route(
    'GET',
    '/api/escrow',
    'Whether the shop has an escrow, and whose two phrases open it.',
    {},
    z.object({ people: z.array(z.string()), since: z.iso.datetime().nullable() }),
  ),
  setUpEscrow: route(
    'POST',
    '/api/escrow',
    'Set the shop’s escrow up: two people, each with a phrase of their own. Archives made before keep theirs.',
    { body: z.object({ people: z.tuple([escrowPerson, escrowPerson]) }) },
    z.object({ people: z.array(z.string()), since: z.iso.datetime().nullable() }),
  ),
  openByEscrow: route(
    'POST',
    '/api/archives/:id/escrow',
    'Two people together give an archive whose password is lost another one. On record.',
    {
      params: z.object({ id }),
      body: z.object({
        people: z.tuple([escrowPerson, escrowPerson]),
        newPassword: backupPassword,
        passwordHolder: z.enum(['customer', 'shop', 'both']),
        reminder: z.string().trim().max(200),
      }),
    },
    archiveSchema,
  ),
  settings: route(
    'GET',
    '/api/settings',
    'What the shop decided once for everybody.',
    {},
    shopSettingsSchema,
  ),
  saveSettings: route(
    'PUT',
    '/api/settings',
    'Change what the shop decided.',
    { body: shopSettingsSchema },
    shopSettingsSchema,
  ),
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
  noteAgreement: route(
    'POST',
    '/api/tickets/:number/agreements',
    'Note what the customer agreed to, or took back.',
    {
      params: z.object({ number: ticketNumber }),
      body: z.object({
        kind: z.enum(agreementKinds),
        given: z.boolean(),
        days: z.int().min(1).max(3650).nullable(),
      }),
    },
    ticketSchema,
  ),
  settleStep: route(
    'POST',
    '/api/tickets/:number/steps/:step',
    'Say that a step is done, or skip it with a reason, or take that back.',
    {
      params: z.object({ number: ticketNumber, step: z.enum(stepIds) }),
      body: z.object({
        state: z.enum(['done', 'skipped', 'open']),
        reason: z.string().trim().max(300),
      }),
    },
    ticketSchema,
  ),
  tieDevice: route(
    'POST',
    '/api/tickets/:number/device',
    'Say which device on the bench a ticket is about, where it was typed before.',
    {
      params: z.object({ number: ticketNumber }),
      body: z.object({
        deviceId,
        /** Somebody asked whose it is, or looked at what is printed on it. */
        questionAnswered: z.boolean(),
      }),
    },
    ticketSchema,
  ),
  closeTicket: route(
    'POST',
    '/api/tickets/:number/close',
    'Close a ticket on whose run sheet nothing is left to do.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  knownVisits: route(
    'GET',
    '/api/devices/:deviceId/visits',
    'What the shop knows of a device on the bench.',
    { params: z.object({ deviceId }) },
    knownVisitsSchema,
  ),

  listing: route(
    'GET',
    '/api/tickets/:number/listing',
    'Everything on the ticket’s device, for choosing from. Names only where looking inside was agreed. On record.',
    { params: z.object({ number: ticketNumber }) },
    listingSchema,
  ),
  planCost: route(
    'POST',
    '/api/tickets/:number/costs',
    'How large and how long a backup would be, and where it would go. Reads a sample of the device.',
    { params: z.object({ number: ticketNumber }), body: z.object(scope) },
    planCostSchema,
  ),
  plans: route(
    'GET',
    '/api/tickets/:number/plans',
    'Plans that suit the ticket’s device: the remembered one first.',
    { params: z.object({ number: ticketNumber }) },
    z.array(planSchema),
  ),
  savePlan: route(
    'POST',
    '/api/tickets/:number/plans',
    'Keep a plan under a name, for every device of that family.',
    {
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
    'What a further backup into an archive of the ticket’s device would send and cost. Reads a sample of the device.',
    {
      params: z.object({ number: ticketNumber }),
      body: knownPassword.safeExtend({ ...scope, archiveId: id }),
    },
    furtherCostSchema,
  ),

  startBackup: route(
    'POST',
    '/api/tickets/:number/backups',
    'Take a backup of the ticket’s device.',
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

  pauseOperation: route(
    'POST',
    '/api/operations/:id/pause',
    'Let a running backup wait, or go on.',
    { params: z.object({ id }), body: z.object({ paused: z.boolean() }) },
    operationSchema,
  ),
  retryFailed: route(
    'POST',
    '/api/operations/:id/retry',
    'Try only the items again that failed, in a further backup of the same archive.',
    { params: z.object({ id }), body: knownPassword },
    operationSchema,
  ),
  failedItems: route(
    'GET',
    '/api/operations/:id/failed',
    'Each item that a backup did not take, as its device lists it now; names only where looking inside was agreed.',
    { params: z.object({ id }) },
    z.array(failedItemSchema),
  ),
  continueOperation: route(
    'POST',
    '/api/operations/:id/continue',
    'Let a backup that was cut off go on from what is on the rack.',
    { params: z.object({ id }), body: knownPassword },
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
        /** What the customer typed on their own page, in place of a password here. */
        fromDesk: z.boolean().default(false),
        /** Empty for the level `bytes`, which needs none. */
        password: z.string().max(1024),
      }),
    },
    operationSchema,
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
    { params: z.object({ id }), body: knownPassword.safeExtend({ rackId: id }) },
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
      body: knownPassword.safeExtend({ deviceId, serialTail }),
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
