import { operationKinds, type AuditAction } from '@bright-cellar/core';
import { startRouteOf, routes } from './routes/index.js';
import type { Route } from './route.js';

/** What a route that changes something leaves on record; or why it leaves nothing. */
export type OnRecord =
  | readonly AuditAction[]
  | { none: string }
  /** The work process writes it. */
  | { byWork: AuditAction }
  /** Nothing, where it was asked for before or is over. */
  | { unlessOver: AuditAction };

const onceItEnds = { none: 'It looks; how much was shown is on record when the look-in ends.' };

const said = {
  beginShop: ['shop-begun'],
  signIn: ['sign-in'],
  passkeyAsk: { none: 'It asks for a signature, and lets nobody in.' },
  passkeySignIn: ['sign-in'],
  takeOver: ['sign-in'],
  lockSession: { none: 'It shuts a screen, and opens nothing.' },
  unlockSession: ['unlocked'],
  endSession: ['sessions-ended'],
  offerCode: { none: 'Nothing is in force until a code was typed.' },
  useCode: ['second-factor-set'],
  dropCode: ['second-factor-dropped'],
  offerPasskey: { none: 'Nothing is in force until the passkey was made.' },
  addPasskey: ['passkey-added'],
  dropPasskey: ['passkey-dropped'],
  setPin: ['pin-set'],
  signOutPerson: ['sessions-ended'],
  signOut: ['sign-out'],
  addPerson: ['person-added'],
  changePerson: ['person-changed'],
  givePassword: ['person-changed'],
  personLeaves: ['person-left'],
  addRole: ['role-added'],
  changeRole: ['role-changed'],
  dropRole: ['role-dropped'],
  endSessions: ['sessions-ended'],
  changeOwnPassword: ['own-password-changed'],
  openDesk: ['desk-opened'],
  giveAtDesk: ['desk-filled'],
  measureRecovered: { none: 'It looks, and changes nothing.' },
  takeOverRecovered: ['backup-started'],
  startMigration: ['backup-started'],
  openPartner: ['partner-opened'],
  openPartnerDevice: ['partner-opened'],
  openPartnerBackup: ['partner-opened'],
  closePartner: { none: 'It forgets what was held in memory.' },
  mergeLines: { none: 'It shows what was read, and changes nothing.' },
  joinPersons: { none: 'It is on record once it is written.' },
  decideMerge: { none: 'It is on record once it is written.' },
  mapMessageFile: { none: 'It reads a file that was given, and changes nothing.' },
  schedule: ['schedule-changed'],
  keepInStep: ['schedule-changed'],
  endSchedule: ['schedule-changed'],
  armSchedule: ['schedule-changed'],
  updateDevice: ['update-started'],
  beginLookIn: { byWork: 'look-in-begun' },
  endLookIn: { byWork: 'look-in-ended' },
  searchLookIn: onceItEnds,
  lookConversations: onceItEnds,
  lookSamples: onceItEnds,
  lookShelf: onceItEnds,
  searchShelves: onceItEnds,
  lookText: onceItEnds,
  lookFiles: onceItEnds,
  compareLook: onceItEnds,
  lookDifferences: onceItEnds,
  pickInLook: { none: 'It takes nothing out; what is taken out is on record then.' },
  putBackInLook: { none: 'It takes nothing out.' },
  takeOut: { byWork: 'look-taken-out' },
  takeOutToRack: { byWork: 'look-taken-out' },
  storageFolders: { none: 'It looks, and changes nothing.' },
  connectStorage: ['storage-connected'],
  letStorageGo: ['storage-let-go'],
  setUpEscrow: ['escrow-set-up'],
  openByEscrow: { byWork: 'escrow-opened' },
  changeNetwork: ['network-changed'],
  giveCertificate: ['network-changed'],
  saveCatalogue: { none: 'That it was saved goes on record, by itself as every night.' },
  offerRecoveryKey: { none: 'Nothing of it is kept until it is used.' },
  useRecoveryKey: ['recovery-key-made'],
  saveSettings: ['settings-changed'],
  nameAdapter: ['settings-changed'],
  takeOwnAdapter: ['settings-changed'],
  giveLogo: ['settings-changed'],
  dropLogo: ['settings-changed'],
  tryRack: { none: 'It tries a place, and keeps nothing of it.' },
  hostKey: { none: 'It looks, and changes nothing.' },
  addRack: ['rack-added'],
  weighPruning: { none: 'It looks, and changes nothing.' },
  keepLonger: ['kept-longer'],
  forgetCustomer: ['names-forgotten'],
  hold: ['held'],
  liftHold: ['hold-lifted'],
  payOwed: { none: 'What it begins goes on record by itself, when there is something to begin.' },
  changeRack: ['rack-changed'],
  retireRack: ['rack-retired'],
  newTicket: ['ticket-opened'],
  noteAgreement: ['agreement'],
  settleStep: ['step-settled'],
  tieDevice: ['device-tied'],
  closeTicket: ['ticket-closed'],
  reopenTicket: ['ticket-reopened'],
  planCost: { none: 'It looks, and changes nothing.' },
  savePlan: ['plan-saved'],
  furtherCost: { none: 'It looks, and changes nothing.' },
  stopOperation: { unlessOver: 'stop-asked' },
  pauseOperation: { unlessOver: 'pause-asked' },
  retryFailed: ['backup-started'],
  continueOperation: ['backup-continued', 'move-continued'],
  discardOperation: ['backup-discarded', 'move-given-up'],
  saveView: { none: 'One’s own shortcut to a list.' },
  dropView: { none: 'One’s own shortcut to a list.' },
  changePassword: { byWork: 'password-changed' },
} satisfies Partial<Record<keyof typeof routes, OnRecord>>;

/** By route, what it leaves on record: of every route that is not just read. */
export const onRecord: ReadonlyMap<Route, OnRecord> = new Map<Route, OnRecord>([
  ...Object.entries(said).map(
    ([name, leaves]) => [routes[name as keyof typeof said], leaves] as const,
  ),
  ...operationKinds.map((kind) => [startRouteOf(kind), [`${kind}-started`]] as const),
]);

/** What the server itself is to have written once a route was answered: one of these, where there are any. */
export function promisedBy(route: Route): readonly AuditAction[] {
  const leaves = onRecord.get(route);
  return leaves === undefined || 'none' in leaves || 'byWork' in leaves || 'unlessOver' in leaves
    ? []
    : leaves;
}
