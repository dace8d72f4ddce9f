import {
  agreementKinds,
  backupPasswordSchema as backupPassword,
  definitionOf,
  choiceSchema,
  archiveIdSchema as archiveId,
  dataClassIds,
  backupIdSchema as backupId,
  idSchema as id,
  rackIdSchema as rackId,
  knownPasswordSchema as knownPassword,
  linkDeviceSchema as deviceId,
  adapterSiteSchema,
  chosenPartSchema,
  mountedFolderSchema,
  mappingSchema,
  newMigrationSchema,
  newRecoveredSchema,
  networkRulesSchema,
  operationKinds,
  operations,
  passwordHolderShape,
  pinProblem,
  planModes,
  rackHealthSchema,
  rackKindSchema,
  rackSiteSchema,
  rackNameSchema,
  scheduleSchema,
  serialTailSchema as serialTail,
  stepIds,
  ticketNumberSchema as ticketNumber,
  visitReasonIds,
  type OperationKind,
  type Permission,
  changes,
  takeOutChoicesSchema,
} from '@bright-cellar/core';
import { stockSchema } from '@bright-cellar/core/placement';
import { z } from 'zod';
import { deskActionIds } from './desk.js';
import {
  lookAmountsSchema,
  lookConversationSchema,
  lookedSchema,
  lookFileSchema,
  lookHitSchema,
  lookInSchema,
  lookMessagesSchema,
} from './look-ins.js';
import { comparedWithSchema, comparisonSchema, differenceSchema } from './look-compare.js';
import { shelfIds, shelfPartSchema } from './look-shelves.js';
import { basketSchema, pickSchema, takeOutSchema } from './look-take-out.js';
import { packageToldSchema } from './application-packages.js';
import { lookSamplesSchema } from './look-samples.js';
import { classExamplesSchema } from './crossing-examples.js';
import { handoverLanguageIds } from './papers.js';
import { fileToldSchema } from './message-files.js';
import type { Access, Route } from './route.js';
import {
  accountSchema,
  auditAskSchema,
  auditCheckSchema,
  archiveRowSchema,
  archiveSorts,
  archivesSummarySchema,
  archiveSchema,
  restoreChoicesSchema,
  backupSchema,
  benchSchema,
  careSchema,
  elevationSchema,
  disposalSchema,
  dueRowSchema,
  keepingSchema,
  conditionSchema,
  customerDataSchema,
  customerSchema,
  dayReportSchema,
  daySheetSchema,
  daySheetsSchema,
  failedItemSchema,
  findingSchema,
  firstVisitSchema,
  foundSchema,
  furtherCostSchema,
  knownVisitsSchema,
  listingSchema,
  listQuery,
  lookSchema,
  moveStepSchema,
  networkSchema,
  plannedNowSchema,
  operationSchema,
  newPersonSchema,
  packageSchema,
  personRulesSchema,
  personSchema,
  pageOf,
  planCostSchema,
  planSchema,
  rackCopySchema,
  rackCopySorts,
  rackInFullSchema,
  rackPlaceSchema,
  rackRulesSchema,
  rackSchema,
  recordEntrySchema,
  roleRulesSchema,
  roleSchema,
  recoveredFolderSchema,
  storagePlaceSchema,
  regularExtractSchema,
  regularWorkSchema,
  sessionSchema,
  shopSettingsSchema,
  runSorts,
  savedViewSchema,
  savesSchema,
  strangerSchema,
  triedRackSchema,
  ticketRowSchema,
  ticketSorts,
  ticketSchema,
} from './shapes.js';

const nothing = z.object({});
const lookSome = z.object({ text: z.string().max(200), from: z.int().min(0) });
const lookInParams = z.object({ id: z.uuid() });
const keepReason = z.string().trim().min(1, 'Say why.').max(300);
/** Who they are, proved by their own sign-in, and the phrase that only they know. */
const escrowPerson = z.object({
  login: z.string().min(1).max(60),
  password: z.string().min(1).max(1024),
  phrase: z.string().min(1).max(1024),
});
/** Where a rack is to be, and what one signs in with there. */
const rackPlace = z.object({ site: rackSiteSchema, secret: z.string().max(20_000) });
const deskToken = z.string().regex(/^[A-Za-z0-9_-]{22}$/);

type Parts = Partial<{
  params: z.ZodType;
  query: z.ZodType;
  body: z.ZodType;
  /** It tries a password: wrong ones are few. */
  triesPassword: true;
  /** It carries a choice of single items. */
  isLong: true;
}>;
type Given<P extends Parts, Part extends 'params' | 'query' | 'body'> = P[Part] extends z.ZodType
  ? P[Part]
  : typeof nothing;

function route<const P extends Parts, R extends z.ZodType, const A extends Access>(
  method: Route['method'],
  path: string,
  access: A,
  summary: string,
  parts: P,
  response: R,
) {
  return {
    method,
    path,
    summary,
    access,
    params: (parts.params ?? nothing) as Given<P, 'params'>,
    query: (parts.query ?? nothing) as Given<P, 'query'>,
    body: (parts.body ?? nothing) as Given<P, 'body'>,
    response,
    triesPassword: parts.triesPassword ?? false,
    isLong: parts.isLong ?? false,
  };
}

type Start<Kind extends OperationKind> = (typeof operations)[Kind]['start'];
type StartRoute<Kind extends OperationKind> = Route<
  Start<Kind>['params'],
  typeof nothing,
  Start<Kind>['body'],
  typeof operationSchema,
  Permission
>;
type StartRoutes = {
  [Kind in OperationKind as `start${Capitalize<Kind>}`]: StartRoute<Kind>;
};

/** How each kind of long work is started: what a screen sends is said with the kind itself, in core. */
const startRoutes = Object.fromEntries(
  operationKinds.map((kind) => {
    const { start, permission, triesPassword } = definitionOf(kind);
    return [
      `start${kind.charAt(0).toUpperCase()}${kind.slice(1)}`,
      {
        method: 'POST',
        path: `/api${start.path}`,
        summary: start.summary,
        access: permission,
        params: start.params,
        query: nothing,
        body: start.body,
        response: operationSchema,
        triesPassword,
        isLong: true,
      } satisfies Route,
    ];
  }),
) as unknown as StartRoutes;

/** The route that starts work of a kind. */
export const startRouteOf = <Kind extends OperationKind>(kind: Kind): StartRoute<Kind> =>
  startRoutes[`start${kind.charAt(0).toUpperCase()}${kind.slice(1)}` as keyof StartRoutes];

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

/** What a browser’s own interface for passkeys takes and gives (W3C WebAuthn, in JSON); checked by who speaks it. */
const webAuthnOptions = z.record(z.string(), z.unknown());
const webAuthnAnswer = z.object({ id: z.string().max(2000) }).catchall(z.unknown());

/** Every route there is. */
/** Base64; null where there is none. */
const logo = z.object({ png: z.string().nullable() });

export const routes = {
  ...startRoutes,
  setUp: route(
    'GET',
    '/api/set-up',
    'anyone',
    'Whether nobody keeps this shop yet.',
    {},
    z.object({ needed: z.boolean() }),
  ),
  beginShop: route(
    'POST',
    '/api/set-up',
    'anyone',
    'The first visit: makes the first keeper, with the code that the start printed, and signs them in.',
    { body: firstVisitSchema },
    sessionSchema,
  ),
  signIn: route(
    'POST',
    '/api/session',
    'anyone',
    'Sign in. Sets the session cookie.',
    {
      body: z.object({
        login: z.string().min(1, 'Type your name.').max(60),
        password: z.string().min(1, 'Type your password.').max(1024),
        /** Six digits from their own device, where the account gives them. */
        code: z.string().trim().max(12).default(''),
      }),
    },
    sessionSchema,
  ),
  passkeyAsk: route(
    'POST',
    '/api/session/passkey/ask',
    'anyone',
    'What a browser is to have signed with a passkey (WebAuthn).',
    {},
    z.object({ ask: z.string(), options: webAuthnOptions }),
  ),
  passkeySignIn: route(
    'POST',
    '/api/session/passkey',
    'anyone',
    'Sign in with a passkey: it counts for password and code together.',
    { body: z.object({ ask: z.string().max(60), answer: webAuthnAnswer }) },
    sessionSchema,
  ),
  atThisCounter: route(
    'GET',
    '/api/session/counter',
    'anyone',
    'Who can take this screen over with a PIN: only where somebody signed in in full today.',
    {},
    z.array(z.object({ id, name: z.string() })),
  ),
  takeOver: route(
    'POST',
    '/api/session/counter',
    'anyone',
    'Sign in with a PIN, on a computer on which somebody signed in in full today. Who was signed in there is signed out.',
    { body: z.object({ technicianId: id, pin: z.string().max(10) }) },
    sessionSchema,
  ),
  lockSession: route(
    'POST',
    '/api/session/lock',
    'own-account',
    'Lock this screen: nothing is answered until it is unlocked.',
    {},
    nothing,
  ),
  unlockSession: route(
    'POST',
    '/api/session/unlock',
    'own-account',
    'Unlock it, with one’s own password or PIN.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().max(1024).default(''),
        pin: z.string().max(10).default(''),
      }),
    },
    sessionSchema,
  ),
  endSession: route(
    'DELETE',
    '/api/account/sessions/:id',
    'own-account',
    'Sign out in another browser.',
    { params: z.object({ id }) },
    accountSchema,
  ),
  offerCode: route(
    'POST',
    '/api/account/code/offer',
    'own-account',
    'What codes are to be made of (RFC 6238), for one’s own device. In force once a code was typed.',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    z.object({ secret: z.string(), address: z.string(), picture: z.string() }),
  ),
  useCode: route(
    'PUT',
    '/api/account/code',
    'own-account',
    'Give codes from now on: with the first one.',
    { triesPassword: true, body: z.object({ code: z.string().trim().max(12) }) },
    accountSchema,
  ),
  dropCode: route(
    'POST',
    '/api/account/code/drop',
    'own-account',
    'Give no codes any more.',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    accountSchema,
  ),
  offerPasskey: route(
    'POST',
    '/api/account/passkeys/offer',
    'own-account',
    'What a browser is to make a passkey of (WebAuthn).',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    z.object({ options: webAuthnOptions }),
  ),
  addPasskey: route(
    'POST',
    '/api/account/passkeys',
    'own-account',
    'Sign in with this passkey from now on.',
    {
      body: z.object({
        name: z.string().trim().min(1, 'Give it a name.').max(60),
        answer: webAuthnAnswer,
      }),
    },
    accountSchema,
  ),
  dropPasskey: route(
    'DELETE',
    '/api/account/passkeys/:id',
    'own-account',
    'Sign in with it no longer.',
    { params: z.object({ id }) },
    accountSchema,
  ),
  setPin: route(
    'PUT',
    '/api/account/pin',
    'own-account',
    'A PIN for a quick change at the counter; empty for none.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().max(1024),
        pin: z.string().superRefine((pin, context) => {
          const message = pin === '' ? null : pinProblem(pin);
          if (message) context.addIssue({ code: 'custom', message });
        }),
      }),
    },
    accountSchema,
  ),
  signOutPerson: route(
    'POST',
    '/api/people/:id/sign-out',
    'people',
    'Sign somebody out everywhere.',
    { params: z.object({ id }) },
    z.array(personSchema),
  ),
  session: route(
    'GET',
    '/api/session',
    'anyone',
    'Who is signed in; null when nobody is.',
    {},
    sessionSchema.nullable(),
  ),
  signOut: route(
    'DELETE',
    '/api/session',
    'own-account',
    'Sign out. The session ends everywhere at once.',
    {},
    nothing,
  ),

  people: route(
    'GET',
    '/api/people',
    'people',
    'Who works here, and who did.',
    {},
    z.array(personSchema),
  ),
  roles: route(
    'GET',
    '/api/roles',
    'see',
    'What one can work here as, and what each may do.',
    {},
    z.array(roleSchema),
  ),
  addRole: route(
    'POST',
    '/api/roles',
    'people',
    'A role of the shop’s own, out of single permissions.',
    { body: roleRulesSchema },
    z.array(roleSchema),
  ),
  changeRole: route(
    'PUT',
    '/api/roles/:id',
    'people',
    'What a role of the shop’s own is called, and may do.',
    { params: z.object({ id }), body: roleRulesSchema },
    z.array(roleSchema),
  ),
  dropRole: route(
    'DELETE',
    '/api/roles/:id',
    'people',
    'Take a role away that nobody here has.',
    { params: z.object({ id }) },
    z.array(roleSchema),
  ),
  audit: route(
    'GET',
    '/api/audit',
    'audit',
    'The record of who did what, the newest first, a page at a time.',
    { query: auditAskSchema.extend({ after: z.string().max(200).default('') }) },
    z.object({ rows: z.array(recordEntrySchema), next: z.string().nullable() }),
  ),
  auditHead: route(
    'GET',
    '/api/audit/head',
    'audit',
    'How many entries the record has, and the digest of the last.',
    {},
    z.object({ entries: z.int(), digest: z.string() }),
  ),
  checkAudit: route(
    'GET',
    '/api/audit/check',
    'audit',
    'Follow the record from its first entry: whether each is sealed to all before it.',
    {
      query: z.object({
        printed: z
          .string()
          .regex(/^[\s\da-fA-F]{0,90}$/, 'A digest has only the digits 0 to 9 and a to f.')
          .default(''),
      }),
    },
    auditCheckSchema,
  ),
  addPerson: route(
    'POST',
    '/api/people',
    'people',
    'Somebody works here from now on.',
    { body: newPersonSchema },
    z.array(personSchema),
  ),
  changePerson: route(
    'PUT',
    '/api/people/:id',
    'people',
    'Another name, or another role.',
    { params: z.object({ id }), body: personRulesSchema },
    z.array(personSchema),
  ),
  givePassword: route(
    'POST',
    '/api/people/:id/sign-in',
    'people',
    'Another first password, for somebody who forgot theirs: they are signed out everywhere.',
    { params: z.object({ id }), body: newPersonSchema.pick({ password: true }) },
    z.array(personSchema),
  ),
  personLeaves: route(
    'POST',
    '/api/people/:id/leave',
    'people',
    'They work here no longer: every session of theirs ends. What they did stays on record.',
    { params: z.object({ id }) },
    z.array(personSchema),
  ),
  account: route(
    'GET',
    '/api/account',
    'own-account',
    'Where one’s own account is signed in, and what happened to it lately.',
    {},
    accountSchema,
  ),
  endSessions: route(
    'DELETE',
    '/api/account/sessions',
    'own-account',
    'Sign out everywhere, here too.',
    {},
    nothing,
  ),
  changeOwnPassword: route(
    'POST',
    '/api/account/sign-in',
    'own-account',
    'Give one’s own account another password. Other browsers are signed out.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().min(1, 'Type your present password.').max(1024),
        newPassword: z.string().min(1, 'Type a new password.').max(1024),
      }),
    },
    accountSchema,
  ),
  bench: route('GET', '/api/bench', 'see', 'Every berth and the device on it.', {}, benchSchema),
  openDesk: route(
    'POST',
    '/api/tickets/:number/desk',
    'take-in',
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
    'see',
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
    'anyone',
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
  ),
  giveAtDesk: route(
    'POST',
    '/api/desk/:token',
    'anyone',
    'The customer’s password, from their own page.',
    {
      params: z.object({ token: deskToken }),
      body: z.object({ password: backupPassword, reminder: z.string().trim().max(200) }),
    },
    nothing,
  ),
  recoveredFolders: route(
    'GET',
    '/api/recovered',
    'back-up',
    'Folders that somebody recovered from a device and that wait on a rack, under “incoming”.',
    {},
    z.array(recoveredFolderSchema),
  ),
  measureRecovered: route(
    'POST',
    '/api/recovered/measure',
    'back-up',
    'How much such a folder holds.',
    { body: z.object({ rackId, name: rackNameSchema }) },
    z.object({ items: z.int(), bytes: z.int() }),
  ),
  takeOverRecovered: route(
    'POST',
    '/api/tickets/:number/recovered',
    'back-up',
    'Take such a folder over, into a new archive of the ticket’s device.',
    { params: z.object({ number: ticketNumber }), body: newRecoveredSchema },
    operationSchema,
  ),
  crossingExamples: route(
    'GET',
    '/api/operations/:id/examples',
    'look-in',
    'Single items of a loss report, as they were and as they will arrive. The customer agreed that the shop looks inside.',
    { params: z.object({ id: z.uuid() }) },
    z.array(classExamplesSchema),
  ),
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
  handoverSheet: route(
    'GET',
    '/api/tickets/:number/handover',
    'see',
    'What the customer takes home, in their language, to be read on a screen.',
    {
      params: z.object({ number: ticketNumber }),
      query: z.object({ language: z.enum(handoverLanguageIds).catch('en') }),
    },
    z.object({
      title: z.string(),
      sections: z.array(
        z.object({
          title: z.string(),
          lines: z.array(z.object({ name: z.string(), text: z.string() })),
        }),
      ),
    }),
  ),
  startMigration: route(
    'POST',
    '/api/tickets/:number/migrations',
    'restore',
    'Old to new: take a backup of the ticket’s device, and send it onto another of its family while it is taken. Answers with the restore.',
    { params: z.object({ number: ticketNumber }), body: newMigrationSchema },
    operationSchema,
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
  dayReport: route(
    'GET',
    '/api/reports/day',
    'see',
    'What the bench did on a day, and how well its estimates came out.',
    { query: z.object({ day: z.iso.date() }) },
    dayReportSchema,
  ),
  dayRuns: route(
    'GET',
    '/api/reports/day/runs',
    'see',
    'What ran on a day, a page at a time.',
    { query: listQuery(runSorts, 'started').omit({ text: true }).extend({ day: z.iso.date() }) },
    pageOf(operationSchema),
  ),
  updateDevice: route(
    'POST',
    '/api/devices/:deviceId/update',
    'update-devices',
    'Have a device install the update that its OS offers, where the shop’s policy allows it.',
    { params: z.object({ deviceId }), body: z.object({ serialTail }) },
    nothing,
  ),
  lookIns: route(
    'GET',
    '/api/look-ins',
    'see',
    'Look-ins that are open: who looks into what.',
    {},
    z.array(lookInSchema),
  ),
  beginLookIn: route(
    'POST',
    '/api/backups/:id/look-ins',
    'look-in',
    'Opens a backup to read in it. The customer has agreed to that; its password opens it.',
    {
      params: z.object({ id: backupId }),
      body: knownPassword.safeExtend({
        reason: z.string().trim().min(3, 'Say what for.').max(200),
      }),
      triesPassword: true,
    },
    z.object({ id: z.uuid() }),
  ),
  lookAmounts: route(
    'GET',
    '/api/look-ins/:id',
    'look-in',
    'What is in the backup, as far as it was read.',
    { params: lookInParams },
    lookAmountsSchema,
  ),
  endLookIn: route(
    'DELETE',
    '/api/look-ins/:id',
    'look-in',
    'Closes a look-in: its key is forgotten.',
    { params: lookInParams },
    nothing,
  ),
  lookConversations: route(
    'POST',
    '/api/look-ins/:id/conversations',
    'look-in',
    'Conversations whose people have these letters in their names; the newest first, at most 500.',
    { params: lookInParams, body: z.object({ text: z.string().max(200) }) },
    lookedSchema(lookConversationSchema),
  ),
  lookMessages: route(
    'GET',
    '/api/look-ins/:id/conversations/:conversation/messages',
    'look-in',
    'A part of a conversation, in the order of time.',
    {
      params: lookInParams.extend({ conversation: z.coerce.number().int().min(0) }),
      query: z.object({ from: z.coerce.number().int().min(0).default(0) }),
    },
    lookMessagesSchema,
  ),
  searchLookIn: route(
    'POST',
    '/api/look-ins/:id/search',
    'look-in',
    'Messages that have every word, the newest first, at most 100.',
    {
      params: lookInParams,
      body: z.object({ text: z.string().max(200), within: z.int().min(0).nullable() }),
    },
    lookedSchema(lookHitSchema),
  ),
  lookSamples: route(
    'POST',
    '/api/look-ins/:id/samples',
    'look-in',
    'Draws a few things to be looked for on the device that the backup went onto: others each time.',
    { params: lookInParams, body: z.object({}) },
    lookSamplesSchema,
  ),
  lookShelf: route(
    'POST',
    '/api/look-ins/:id/shelves/:shelf',
    'look-in',
    'Rows of a shelf that have these letters, digits of a number, or words for a time, 200 at a time.',
    { params: lookInParams.extend({ shelf: z.enum(shelfIds) }), body: lookSome },
    shelfPartSchema,
  ),
  searchShelves: route(
    'POST',
    '/api/look-ins/:id/shelves',
    'look-in',
    'The first rows of every shelf that has any with these letters; messages are not among them.',
    { params: lookInParams, body: z.object({ text: z.string().max(200) }) },
    z.array(shelfPartSchema),
  ),
  lookText: route(
    'POST',
    '/api/look-ins/:id/text',
    'look-in',
    'The text of a document, as far as it is shown.',
    { params: lookInParams, body: z.object({ item: z.int().min(0) }) },
    z.object({ text: z.string(), isAll: z.boolean() }),
  ),
  compareLook: route(
    'POST',
    '/api/look-ins/:id/comparison',
    'look-in',
    'Begins to compare the open backup with another of its archive, the newest of another archive, or a device on the bench.',
    {
      params: lookInParams,
      body: z.object({ with: comparedWithSchema }),
      triesPassword: true,
    },
    comparisonSchema,
  ),
  lookComparison: route(
    'GET',
    '/api/look-ins/:id/comparison',
    'look-in',
    'How comparing goes, and what came out: by class, and in a sentence.',
    { params: lookInParams },
    comparisonSchema,
  ),
  lookDifferences: route(
    'POST',
    '/api/look-ins/:id/comparison/items',
    'look-in',
    'What became of single items, 200 at a time.',
    {
      params: lookInParams,
      body: z.object({
        class: z.enum(dataClassIds).nullable(),
        change: z.enum(changes).nullable(),
        from: z.int().min(0),
      }),
    },
    lookedSchema(differenceSchema),
  ),
  lookBasket: route(
    'GET',
    '/api/look-ins/:id/basket',
    'look-in',
    'What is in hand, to be taken out.',
    { params: lookInParams },
    basketSchema,
  ),
  pickInLook: route(
    'POST',
    '/api/look-ins/:id/basket',
    'look-in',
    'Takes something in hand, of what is read.',
    { params: lookInParams, body: z.object({ picks: z.array(pickSchema).min(1).max(1000) }) },
    basketSchema,
  ),
  putBackInLook: route(
    'POST',
    '/api/look-ins/:id/basket/put-back',
    'look-in',
    'Puts something back that was in hand; all of it where nothing is named.',
    { params: lookInParams, body: z.object({ keys: z.array(z.string().max(600)).max(1000) }) },
    basketSchema,
  ),
  takeOut: route(
    'POST',
    '/api/look-ins/:id/take-outs',
    'take-out',
    'Prepares what is in hand to be taken out: its package is read next, once.',
    {
      params: lookInParams,
      body: z.object({
        choices: takeOutChoicesSchema,
        /** The package is sealed with it (age); null for one that anybody can open. */
        password: z.string().min(8, 'Eight characters at least.').max(1024).nullable(),
        /** Only what failed the last time. */
        onlyFailed: z.boolean(),
      }),
    },
    z.object({ id: z.uuid() }),
  ),
  takeOutToRack: route(
    'POST',
    '/api/look-ins/:id/take-outs/:takeOut/to-rack',
    'take-out',
    'Writes what was prepared into a folder of a rack, or of a stick that is one, instead of a browser; once.',
    {
      params: lookInParams.extend({ takeOut: z.uuid() }),
      body: z.object({ rackId }),
    },
    takeOutSchema,
  ),
  takeOutState: route(
    'GET',
    '/api/look-ins/:id/take-outs/:takeOut',
    'take-out',
    'How taking out goes, or went, with what failed and why.',
    { params: lookInParams.extend({ takeOut: z.uuid() }) },
    takeOutSchema,
  ),
  lookFiles: route(
    'POST',
    '/api/look-ins/:id/files',
    'look-in',
    'Files of a class whose path has these letters, in the order of their paths, 200 at a time.',
    {
      params: lookInParams,
      body: lookSome.extend({ class: z.enum(dataClassIds) }),
    },
    lookedSchema(lookFileSchema),
  ),
  adapter: route(
    'GET',
    '/api/bench/adapter',
    'see',
    'Where the adapter is that the shop named; null where devices are reached by the program’s own.',
    {},
    z.object({ named: z.string().nullable() }),
  ),
  nameAdapter: route(
    'PUT',
    '/api/bench/adapter',
    'house-rules',
    'Names another adapter, once it answers. Its token is sealed, and never given out again.',
    { body: adapterSiteSchema },
    z.object({ berths: z.int() }),
  ),
  takeOwnAdapter: route(
    'DELETE',
    '/api/bench/adapter',
    'house-rules',
    'Devices are reached by the program’s own adapter again.',
    {},
    nothing,
  ),
  storagePlaces: route(
    'GET',
    '/api/bench/storage',
    'take-in',
    'Storage that is mounted on this computer and is no rack: what can be put on the bench as a device.',
    {},
    z.array(storagePlaceSchema),
  ),
  storageFolders: route(
    'POST',
    '/api/bench/storage/folders',
    'take-in',
    'The folders in a folder of such storage.',
    { body: z.object({ path: mountedFolderSchema.shape.folder }) },
    z.object({ folders: z.array(z.string()) }),
  ),
  connectStorage: route(
    'POST',
    '/api/bench/storage',
    'take-in',
    'Puts a folder of such storage on the bench as a device.',
    { body: mountedFolderSchema },
    z.object({ deviceId, berth: z.int() }),
  ),
  letStorageGo: route(
    'DELETE',
    '/api/bench/storage/:deviceId',
    'take-in',
    'Takes such storage off the bench. What lies there stays as it is.',
    { params: z.object({ deviceId }) },
    nothing,
  ),
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
  customerData: route(
    'GET',
    '/api/customers/:id/data',
    'customer-data',
    'Everything that the catalogue has of a customer.',
    { params: z.object({ id }) },
    customerDataSchema,
  ),
  forgetCustomer: route(
    'POST',
    '/api/customers/:id/forget',
    'customer-data',
    'Let go of a customer’s name, number and address, where nothing of theirs is kept.',
    { params: z.object({ id }) },
    customerDataSchema,
  ),
  daySheet: route(
    'GET',
    '/api/day',
    'see',
    'What whoever opens or closes the shop has to know.',
    { query: z.object({ which: daySheetsSchema }) },
    daySheetSchema,
  ),
  condition: route(
    'GET',
    '/api/condition',
    'see',
    'How the installation is: a line for each thing that can go wrong, the worst first.',
    {},
    z.array(findingSchema),
  ),
  network: route(
    'GET',
    '/api/network',
    'house-rules',
    'How other computers and customers’ own phones reach the program.',
    {},
    networkSchema,
  ),
  changeNetwork: route(
    'PUT',
    '/api/network',
    'house-rules',
    'Be reached otherwise from now on, without a restart.',
    { body: networkRulesSchema },
    networkSchema,
  ),
  giveCertificate: route(
    'PUT',
    '/api/network/certificate',
    'house-rules',
    'A certificate for TLS and its key, as PEM. Used where the mode is `given`.',
    { body: z.object({ cert: z.string().max(30_000), key: z.string().max(20_000) }) },
    networkSchema,
  ),
  saves: route(
    'GET',
    '/api/saves',
    'see',
    'How the catalogue is saved: what to, and when last onto which rack.',
    {},
    savesSchema,
  ),
  saveCatalogue: route(
    'POST',
    '/api/saves',
    'look-after-racks',
    'Save the catalogue now, sealed, onto every rack that is here.',
    {},
    savesSchema,
  ),
  offerRecoveryKey: route(
    'POST',
    '/api/saves/key/offer',
    'house-rules',
    'Make a recovery key. It is told once, and nothing of it is kept.',
    {},
    z.object({ recipient: z.string(), identity: z.string() }),
  ),
  useRecoveryKey: route(
    'PUT',
    '/api/saves/key',
    'house-rules',
    'Seal saves to a recovery key from now on.',
    {
      body: z.object({
        recipient: z.string().regex(/^age1[a-z0-9]{50,80}$/, 'That is no recipient.'),
      }),
    },
    savesSchema,
  ),
  settings: route(
    'GET',
    '/api/settings',
    'see',
    'What the shop decided once for everybody.',
    {},
    shopSettingsSchema,
  ),
  saveSettings: route(
    'PUT',
    '/api/settings',
    'house-rules',
    'Change what the shop decided.',
    { body: shopSettingsSchema },
    shopSettingsSchema,
  ),
  logo: route('GET', '/api/logo', 'see', 'The picture on the shop’s papers, PNG.', {}, logo),
  giveLogo: route(
    'POST',
    '/api/logo',
    'house-rules',
    'Give the shop a picture for its papers: PNG, JPEG or WebP. It is drawn anew.',
    { isLong: true, body: z.object({ image: z.base64().max(7_000_000) }) },
    logo,
  ),
  dropLogo: route(
    'DELETE',
    '/api/logo',
    'house-rules',
    'Take the picture off the shop’s papers.',
    {},
    logo,
  ),
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
  stock: route(
    'GET',
    '/api/moves/stock',
    'see',
    'What lies where: what a move plan is made from.',
    { query: z.object({ also: rackId.optional() }) },
    stockSchema,
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
  find: route(
    'GET',
    '/api/find',
    'see',
    'Tickets, archives and devices that match a few typed letters.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(foundSchema),
  ),
  customers: route(
    'GET',
    '/api/customers',
    'take-in',
    'Customers whose name, phone or address matches.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(customerSchema),
  ),

  tickets: route(
    'GET',
    '/api/tickets',
    'see',
    'Open tickets, a page at a time.',
    {
      query: listQuery(ticketSorts, 'opened').extend({
        /** Only these: numbers with commas between. */
        only: z
          .string()
          .regex(/^(?:\d{6,12}(?:,\d{6,12}){0,49})?$/)
          .default(''),
      }),
    },
    pageOf(ticketRowSchema),
  ),
  newTicket: route(
    'POST',
    '/api/tickets',
    'take-in',
    'Open a ticket for a device on the bench.',
    { body: newTicketSchema },
    ticketSchema,
  ),
  ticket: route(
    'GET',
    '/api/tickets/:number',
    'see',
    'One ticket with its run sheet.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  noteAgreement: route(
    'POST',
    '/api/tickets/:number/agreements',
    'take-in',
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
    'take-in',
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
    'take-in',
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
    'take-in',
    'Close a ticket on whose run sheet nothing is left to do.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  reopenTicket: route(
    'POST',
    '/api/tickets/:number/reopen',
    'take-in',
    'Open a ticket again that was closed.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  knownVisits: route(
    'GET',
    '/api/devices/:deviceId/visits',
    'take-in',
    'What the shop knows of a device on the bench.',
    { params: z.object({ deviceId }) },
    knownVisitsSchema,
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

  operation: route(
    'GET',
    '/api/operations/:id',
    'see',
    'One operation.',
    { params: z.object({ id }) },
    operationSchema,
  ),
  operations: route(
    'GET',
    '/api/operations',
    'see',
    'Operations that are running.',
    {},
    z.array(operationSchema),
  ),
  stopOperation: route(
    'POST',
    '/api/operations/:id/stop',
    'see',
    'Ask an operation to stop.',
    { params: z.object({ id }) },
    operationSchema,
  ),

  pauseOperation: route(
    'POST',
    '/api/operations/:id/pause',
    'see',
    'Let a running backup wait, or go on.',
    { params: z.object({ id }), body: z.object({ paused: z.boolean() }) },
    operationSchema,
  ),
  retryFailed: route(
    'POST',
    '/api/operations/:id/retry',
    'back-up',
    'Try only the items again that failed, in a further backup of the same archive.',
    { triesPassword: true, params: z.object({ id }), body: knownPassword },
    operationSchema,
  ),
  failedItems: route(
    'GET',
    '/api/operations/:id/failed',
    'back-up',
    'Each item that a backup did not take, as its device lists it now; names only where looking inside was agreed.',
    { params: z.object({ id }) },
    z.array(failedItemSchema),
  ),
  continueOperation: route(
    'POST',
    '/api/operations/:id/continue',
    'see',
    'Let work that was cut off go on from what it left behind.',
    {
      triesPassword: true,
      params: z.object({ id }),
      // Empty where the work opens nothing.
      body: z.object({
        fromDesk: z.boolean().default(false),
        password: z.string().max(1024).default(''),
      }),
    },
    operationSchema,
  ),
  discardOperation: route(
    'POST',
    '/api/operations/:id/discard',
    'see',
    'Give up what is left of work that was cut off.',
    { params: z.object({ id }) },
    operationSchema,
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
  savedViews: route(
    'GET',
    '/api/account/views',
    'own-account',
    'Searches in the list of archives that one wanted to have again.',
    {},
    z.array(savedViewSchema),
  ),
  saveView: route(
    'POST',
    '/api/account/views',
    'own-account',
    'Keep a search under a name; one of that name gives way to it.',
    { body: savedViewSchema.omit({ id: true }) },
    z.array(savedViewSchema),
  ),
  dropView: route(
    'DELETE',
    '/api/account/views/:id',
    'own-account',
    'Forget a search that was kept.',
    { params: z.object({ id: z.uuid() }) },
    z.array(savedViewSchema),
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
  restoreChoices: route(
    'GET',
    '/api/backups/:id/beside',
    'see',
    'Every backup of the device that a backup is of, and which of them should go back.',
    { params: z.object({ id: backupId }) },
    restoreChoicesSchema,
  ),
  restoreTarget: route(
    'GET',
    '/api/backups/:id/targets/:deviceId',
    'restore',
    'Whether a device on the bench can take this backup, condition by condition.',
    { params: z.object({ id: backupId, deviceId }) },
    z.object({
      backup: backupSchema,
      /** For all of it, as it was. */
      conditions: z.array(conditionSchema),
      /** For a chosen part of it, or onto another family. */
      crossing: z.array(conditionSchema),
      isSameFamily: z.boolean(),
      /** What part of it was last asked for, for this device. */
      lastPart: chosenPartSchema.nullable(),
    }),
  ),
  eraseReadiness: route(
    'GET',
    '/api/devices/:deviceId/erase',
    'see',
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

  openApi: route('GET', '/api/openapi.json', 'anyone', 'This document.', {}, z.unknown()),
} as const;

export type RouteName = keyof typeof routes;
