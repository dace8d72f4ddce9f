import {
  benchRulesSchema,
  agreementKinds,
  auditGroupIds,
  amountSchema,
  backedUpDeviceSchema,
  backupScopeSchema,
  byteCountSchema as byteCount,
  careRulesSchema,
  choiceSchema,
  classAmountSchema,
  copySpeeds,
  copyStates,
  coverageLineSchema,
  settlingStepSchema,
  dataClassIds,
  deviceFactsSchema,
  disposalRulesSchema,
  estimateSchema,
  failedItemsSchema,
  idSchema as id,
  instantSchema as instant,
  moveStates,
  networkRulesSchema,
  operationKinds,
  operations,
  operationStates,
  patternProblem,
  planModes,
  problemCodes,
  proofAges,
  proofLevelSchema,
  rackKindSchema,
  permissionIds,
  shopDetailsSchema,
  proofOutcomes,
  recordsExtractSchema,
  scheduleSchema,
  lookingRulesSchema,
  signInRulesSchema,
  stepIds,
  stepStates,
  updatePolicies,
  visitReasonIds,
  type OperationKind,
  type OperationResult,
  rackIdSchema,
  restoreTroubles,
  type RestoreTrouble,
} from '@bright-cellar/core';
import { z } from 'zod';

export const problemSchema = z.object({
  code: z.enum(problemCodes),
  what: z.string(),
  safe: z.string(),
  next: z.string(),
  /** What is wrong with which field of the form, where it is about a form. */
  fields: z.record(z.string(), z.string()).optional(),
});
export type ApiProblem = z.infer<typeof problemSchema>;

/** What somebody works here as: `keeper`, `technician`, `trainee`, or the id of one that the shop made. */
const roleId = z.union([z.enum(['keeper', 'technician', 'trainee']), id]);
const permissionList = z.array(z.enum(permissionIds));

export const roleRulesSchema = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  permissions: permissionList,
});
export type RoleRules = z.infer<typeof roleRulesSchema>;
export const roleSchema = roleRulesSchema.extend({
  id: roleId,
  /** Every shop has it, as it is. */
  builtIn: z.boolean(),
  /** How many work here as that. */
  people: z.int(),
});
export type RoleRow = z.infer<typeof roleSchema>;

export const sessionSchema = z.object({
  technician: z.object({ id, name: z.string(), login: z.string(), role: roleId }),
  /** What they may do. */
  may: permissionList,
  /** Nobody is let in until they say who they are. */
  locked: z.boolean(),
  /** After so many minutes in which nobody did anything the screen locks; 0: never. */
  lockMinutes: z.int(),
  /** The house rules ask for more than a password, and this account has nothing else yet. */
  mustEnrol: z.boolean(),
  /** Every role there is, to say who may do what. */
  roles: z.array(z.object({ id: roleId, name: z.string(), permissions: permissionList })),
  /** Sent back in the `x-csrf-token` header with everything that changes something. */
  csrfToken: z.string(),
  /** Where the demo's stand-in devices are pressed; null in a real shop. */
  trayAddress: z.string().nullable(),
  shopName: z.string(),
});
export type Session = z.infer<typeof sessionSchema>;

const personName = z.string().trim().min(1, 'Type a name.').max(120);
const personLogin = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[\p{L}\p{N}._-]{2,60}$/u, 'Two letters or more, without spaces.');

/** Somebody who works here, or did. */
export const personSchema = z.object({
  id,
  name: z.string(),
  login: z.string(),
  role: roleId,
  since: instant,
  /** When they did something last; null where they never signed in. */
  seenAt: instant.nullable(),
  leftAt: instant.nullable(),
});
export type PersonRow = z.infer<typeof personSchema>;

export const personRulesSchema = z.object({ name: personName, role: roleId });
export const newPersonSchema = personRulesSchema.extend({
  login: personLogin,
  /** Theirs to change. */
  password: z.string().min(1, 'Choose a password.').max(1024),
});

/** An entry in the record of who did what. */
export const recordEntrySchema = z.object({
  id: z.int(),
  at: instant,
  /** Null where the program did it by itself, or nobody was signed in. */
  by: z.string().nullable(),
  ticketNumber: z.string().nullable(),
  action: z.string(),
  what: z.string(),
});
export type RecordEntry = z.infer<typeof recordEntrySchema>;

/** What of the record is looked at; empty where it does not matter. Days are the shop’s own. */
export const auditAskSchema = z.object({
  who: z.union([id, z.literal('')]).default(''),
  group: z.union([z.enum(auditGroupIds), z.literal('')]).default(''),
  ticket: z.string().trim().max(20).default(''),
  from: z.union([z.iso.date(), z.literal('')]).default(''),
  to: z.union([z.iso.date(), z.literal('')]).default(''),
});
export type AuditAsk = z.infer<typeof auditAskSchema>;
export const auditExportSchema = auditAskSchema.extend({ format: z.enum(['jsonl', 'csv']) });

/** What following the record from its first entry found. */
export const auditCheckSchema = z.object({
  /** How many follow each other unbroken. */
  entries: z.int(),
  /** The digest of the last of them. */
  digest: z.string(),
  /** The first that does not follow; `at` is null where entries are missing at the end. */
  broken: z.object({ entry: z.int(), at: instant.nullable() }).nullable(),
  /** Which entry has the digest that was printed; null where none has, or none was looked for. */
  printedAt: z.object({ entry: z.int(), at: instant }).nullable(),
});
export type AuditCheck = z.infer<typeof auditCheckSchema>;

/** What begins a shop: who keeps it, and what it is called. */
export const firstVisitSchema = z.object({
  /** Printed where the program was started. */
  code: z.string().trim().min(1, 'Type the code.').max(40),
  shop: shopDetailsSchema,
  keeper: z.object({
    name: personName,
    login: personLogin,
    password: z.string().min(1, 'Choose a password.').max(1024),
  }),
});
export type FirstVisit = z.infer<typeof firstVisitSchema>;

export const rackSchema = z.object({
  id,
  name: z.string(),
  kind: rackKindSchema,
  /** Stands on its label, and as bars. */
  code: z.string(),
  /** What people know it by beside its name. */
  note: z.string(),
  offPremises: z.boolean(),
  /** Its folder, as the shop computer sees it; null for one that is not mounted there. */
  mounted: z.string().nullable(),
  /** Where it is, in one line. */
  where: z.string(),
  /** Why it is away, where it says so itself; empty otherwise. */
  awayWhy: z.string(),
  /** Whether it is here now, and when it last was; its capacity is that of then. */
  present: z.boolean(),
  seenAt: instant.nullable(),
  /** Since when it is out of use. */
  retiredAt: instant.nullable(),
  capacity: byteCount,
  /** 0 where it is away. */
  free: byteCount,
  /** Kept free: nothing is proposed that would go below this. */
  reserve: byteCount,
  /** What the catalogue says lies there. */
  archives: z.int(),
  storedBytes: byteCount,
});
export type Rack = z.infer<typeof rackSchema>;

/** A rack's name, and what else the shop decides of it. */
export const rackRulesSchema = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  note: z.string().trim().max(120),
  reserve: byteCount,
  /** It stands somewhere else than the shop: fire and thieves do not find both. */
  offPremises: z.boolean(),
});

export type RackRules = z.infer<typeof rackRulesSchema>;

/** An archive in a rack's elevation. */
export const courseSchema = z.object({
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  storedBytes: byteCount,
  state: z.enum(copyStates),
});
export type Course = z.infer<typeof courseSchema>;
/** What a rack is drawn of. */
export const elevationSchema = z.object({
  rackId: id,
  /** Its largest archives, the largest first, and what all others come to. */
  courses: z.array(courseSchema),
  others: z.object({ archives: z.int(), storedBytes: byteCount }),
  /** The days between which it will be full, four times of five; null where nobody can tell. */
  full: z.object({ early: z.iso.date(), late: z.iso.date().nullable() }).nullable(),
  /** What its own ledger of looks says is wrong with it; null where nothing is. */
  ailing: z.string().nullable(),
});
export type Elevation = z.infer<typeof elevationSchema>;

/** What was said of how long an archive is kept. */
export const keepingSchema = z.object({
  /** From when it is kept no longer; null where that is not in sight. */
  dueAt: instant.nullable(),
  /** The visit is open, or it is kept until somebody is told. */
  untilTold: z.boolean(),
  hold: z.object({ reason: z.string(), by: z.string(), at: instant }).nullable(),
  /** What keeps it longer than was agreed on its tickets; null where nothing does. */
  longer: z.object({ reason: z.string(), by: z.string(), until: instant.nullable() }).nullable(),
});
export type Keeping = z.infer<typeof keepingSchema>;

/** An archive in the list of what is due, or held. */
export const dueRowSchema = z.object({
  archiveId: id,
  customerName: z.string(),
  phone: z.string(),
  deviceName: z.string(),
  ticketNumber: z.string(),
  takenAt: instant,
  storedBytes: byteCount,
  rackName: z.string(),
  dueAt: instant.nullable(),
  held: z.boolean(),
});
export type DueRow = z.infer<typeof dueRowSchema>;

/** An archive that was destroyed, or is being. */
export const disposalSchema = z.object({
  id,
  number: z.int(),
  archiveId: id,
  ticketNumber: z.string(),
  deviceName: z.string(),
  /** Empty where names were let go. */
  customerName: z.string(),
  reason: z.string(),
  decidedBy: z.string(),
  decidedAt: instant,
  doneAt: instant.nullable(),
  /** Names of racks on which a copy is still owed its end. */
  owedOn: z.array(z.string()),
  copies: z.int(),
});
export type Disposal = z.infer<typeof disposalSchema>;

/** A move that a plan is still to make. */
export const plannedNowSchema = z.object({
  archiveId: id,
  from: id,
  to: id,
  bytes: byteCount,
});
export type PlannedNow = z.infer<typeof plannedNowSchema>;

/** A move of a plan that is carried out, and how far it is. */
export const moveStepSchema = z.object({
  step: z.int(),
  archiveId: id,
  /** Null where the archive is not there any more. */
  deviceName: z.string().nullable(),
  customerName: z.string().nullable(),
  ticketNumber: z.string().nullable(),
  /** Names of racks. */
  from: z.string(),
  to: z.string(),
  bytes: byteCount,
  detour: z.boolean(),
  state: z.enum(moveStates),
  /** Why it was left where it was; empty where it was not. */
  why: z.string(),
});
export type MoveStep = z.infer<typeof moveStepSchema>;

/** A rack's room at the end of a day. */
export const rackDaySchema = z.object({
  day: z.iso.date(),
  free: byteCount,
  /** What archives took of it. */
  storedBytes: byteCount,
});
export type RackDay = z.infer<typeof rackDaySchema>;

export const rackInFullSchema = z.object({
  rack: rackSchema,
  elevation: elevationSchema,
  days: z.array(rackDaySchema),
});
export type RackInFull = z.infer<typeof rackInFullSchema>;

export const rackCopySorts = ['stored'] as const;
export type RackCopySort = (typeof rackCopySorts)[number];
/** A copy in the ledger of its rack. */
export const rackCopySchema = z.object({
  archiveId: id,
  ticketNumber: z.string(),
  customerName: z.string(),
  deviceName: z.string(),
  takenAt: instant,
  storedBytes: byteCount,
  folder: z.string(),
  state: z.enum(copyStates),
  checkedAt: instant.nullable(),
  isNewest: z.boolean(),
  /** Copies of the same archive on other racks. */
  others: z.int(),
});
export type RackCopy = z.infer<typeof rackCopySchema>;

/** A look at a copy, in the ledger of its rack. */
export const lookSchema = z.object({
  id,
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  at: instant,
  by: z.string(),
  level: proofLevelSchema,
  outcome: z.enum(proofOutcomes),
  readBytes: byteCount,
  durationMs: z.int(),
  what: z.string(),
});
export type Look = z.infer<typeof lookSchema>;

/** A copy that the house rules ask for and that is not there. */
export const owedCopySchema = z.object({
  archiveId: id,
  deviceName: z.string(),
  customerName: z.string(),
  storedBytes: byteCount,
  /** How many are owed; with `offPremises`, one of them away from the shop. */
  copies: z.int(),
  offPremises: z.boolean(),
  /** Where the next of them goes; null with the reason where it cannot be made now. */
  rackName: z.string().nullable(),
  why: z.string().nullable(),
});
export type OwedCopy = z.infer<typeof owedCopySchema>;

/** How what is kept is looked after. */
export const careSchema = z.object({
  /** `isMore`: at least so many; they are not counted further. */
  owed: z.object({ total: z.int(), isMore: z.boolean(), rows: z.array(owedCopySchema) }),
  /** Copies that are here and nobody looked at for longer than the house rules allow. */
  checksDue: z.int(),
  /** Owed copies are being made one after the other, since somebody said so. */
  paying: z.boolean(),
});
export type Care = z.infer<typeof careSchema>;

/** A folder that could become a rack: a drive or share that is mounted. */
export const rackPlaceSchema = z.object({
  path: z.string(),
  capacity: byteCount,
  free: byteCount,
  /** The rack that lies there, retired or of another shop; null where none does. */
  marked: z.string().nullable(),
});
export type RackPlace = z.infer<typeof rackPlaceSchema>;

/** Storage that is mounted on this computer and is no rack. Bytes. */
export const storagePlaceSchema = z.object({
  path: z.string(),
  capacity: byteCount,
  free: byteCount,
});
export type StoragePlace = z.infer<typeof storagePlaceSchema>;

/** What a place turned out to be able to do. Bytes, and bytes a second. */
export const triedRackSchema = z.object({
  capacity: byteCount,
  free: byteCount,
  writeRate: z.number(),
  readRate: z.number(),
  isSound: z.boolean(),
  keepsFirst: z.boolean(),
});
export type TriedRack = z.infer<typeof triedRackSchema>;

/** An archive that lies somewhere and is not in the catalogue there. */
export const strangerSchema = z.object({
  /** On a rack, by its name there; or in a folder of the shop computer, by its path. */
  rackId: z.string().nullable(),
  rackName: z.string(),
  folder: z.string(),
  path: z.string().nullable(),
  storedBytes: byteCount,
  backups: z.int(),
  /** Files that it should have and has not. */
  missing: z.int(),
  /** `same`: the catalogue knows it in this very state; `other`: it knows it in another; `unknown`: it does not know it. */
  known: z.enum(['unknown', 'same', 'other']),
  /** Of the device, where the catalogue knows it. */
  deviceName: z.string(),
  /** Why it cannot be read; empty otherwise. */
  problem: z.string(),
});
export type Stranger = z.infer<typeof strangerSchema>;

export const conditionSchema = z.object({
  id: z.string(),
  label: z.string(),
  met: z.boolean(),
  reading: z.string(),
  remedy: z.string().nullable(),
  steps: z.array(z.string()),
  weight: z.enum(['must', 'accept', 'note']),
  otherwise: z.string().nullable(),
});

/** One item that a backup did not take. */
export const failedItemSchema = z.object({
  class: z.enum(dataClassIds),
  reason: z.string(),
  /** Null unless the customer agreed that the shop looks inside. */
  name: z.string().nullable(),
  bytes: byteCount,
  modified: instant,
});
export type FailedItem = z.infer<typeof failedItemSchema>;

const operationShape = {
  id,
  state: z.enum(operationStates),
  ticketNumber: z.string().nullable(),
  deviceId: z.string().nullable(),
  deviceName: z.string().nullable(),
  archiveId: id.nullable(),
  backupId: id.nullable(),
  phase: z.string(),
  doneBytes: byteCount,
  totalBytes: byteCount,
  doneItems: z.int(),
  totalItems: z.int(),
  /** Bytes a second over the last seconds. */
  rate: z.number(),
  leftLowMs: z.number().nullable(),
  leftHighMs: z.number().nullable(),
  /** What somebody must do on the device before it goes on. */
  needs: z.string().nullable(),
  estimate: estimateSchema.nullable(),
  /** Items that failed and can be tried again by themselves. */
  retryable: z.int().min(0),
  startedAt: instant,
  endedAt: instant.nullable(),
  startedBy: z.string(),
  problem: problemSchema.nullable(),
  /** Bytes on the rack from which one that was cut off can go on; null when it cannot. Not looked for in lists. */
  keptBytes: byteCount.nullable().optional(),
};
const common = z.object(operationShape);

/** One piece of long work, of one kind. */
export type OperationOf<Kind extends OperationKind> = z.infer<typeof common> & {
  kind: Kind;
  result: OperationResult<Kind> | null;
};
export type Operation = { [Kind in OperationKind]: OperationOf<Kind> }[OperationKind];

const ofKind = (kind: OperationKind) =>
  common.extend({ kind: z.literal(kind), result: operations[kind].result.nullable() });
/** What each kind says of its end is said in core; here they are one shape, told apart by their kind. */
export const operationSchema = z.discriminatedUnion(
  'kind',
  operationKinds.map(ofKind) as [ReturnType<typeof ofKind>, ...ReturnType<typeof ofKind>[]],
) as unknown as z.ZodType<Operation>;

export const berthSchema = z.object({
  number: z.int(),
  connection: z.enum(['cable', 'network']),
  device: deviceFactsSchema.nullable(),
  /** What the device here says of itself that cannot be so; empty where there is none, or nothing odd. */
  odd: z.array(z.string()),
  /** What must hold before a backup may start, as the server judges it. */
  readiness: z.array(conditionSchema),
  /** What the device will ask its owner for next. */
  asks: z.array(z.string()),
  ticketNumber: z.string().nullable(),
  customerName: z.string().nullable(),
});
export type Berth = z.infer<typeof berthSchema>;

export const benchSchema = z.object({
  /** False while the bench process does not answer. */
  connected: z.boolean(),
  /** It takes storage that is mounted on this computer. */
  storage: z.boolean(),
  berths: z.array(berthSchema),
  /** Devices that went away in the middle of an operation and are expected back. */
  away: z.array(z.object({ deviceId: z.string(), name: z.string(), berth: z.int() })),
});
export type BenchView = z.infer<typeof benchSchema>;

export const customerSchema = z.object({
  id,
  name: z.string(),
  phone: z.string(),
  email: z.string(),
});
export type Customer = z.infer<typeof customerSchema>;

export const knownDeviceSchema = backedUpDeviceSchema.extend({
  id,
  imei: z.string().nullable(),
  readFrom: z.enum(['cable', 'typed']),
});
export type KnownDevice = z.infer<typeof knownDeviceSchema>;

export const proofSchema = z.object({
  id,
  /** The copy that was looked at. */
  copyId: id,
  /** It speaks of a copy as it is now: in the state in which it was looked at. */
  current: z.boolean(),
  /** Its copy was moved or removed since. */
  gone: z.boolean(),
  level: proofLevelSchema,
  at: instant,
  by: z.string(),
  outcome: z.enum(proofOutcomes),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  what: z.string(),
});
export type Proof = z.infer<typeof proofSchema>;

export const backupSchema = z.object({
  id,
  archiveId: id,
  takenAt: instant,
  takenBy: z.string(),
  osVersion: z.string(),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  /** What the archive did not have before. */
  newItems: z.int(),
  newBytes: byteCount,
  durationMs: z.int(),
  digest: z.string(),
  failed: z.array(failedItemsSchema),
  classes: z.array(classAmountSchema),
  scope: backupScopeSchema,
  coverage: z.array(coverageLineSchema),
  proofs: z.array(proofSchema),
});
export type Backup = z.infer<typeof backupSchema>;

export const copySchema = z.object({
  id,
  rackId: id,
  rackName: z.string(),
  folder: z.string(),
  storedBytes: byteCount,
  /** Whether the folder is there right now. */
  present: z.boolean(),
  /** Whether it holds all that the archive holds; else it is an older state of it. */
  isNewest: z.boolean(),
  /** What the last look at it found, in the state that it is in. */
  state: z.enum(copyStates),
  checkedAt: instant.nullable(),
  checkedLevel: proofLevelSchema.nullable(),
});

/** A package that lies on a rack. */
export const packageSchema = z.object({
  rackId: id,
  rackName: z.string(),
  name: z.string(),
  bytes: byteCount,
  modified: instant,
});
export type Package = z.infer<typeof packageSchema>;

/** A part of a list, and where it goes on. */
export const pageOf = <Row extends z.ZodType>(row: Row) =>
  z.object({
    rows: z.array(row),
    /** Asked for with the next page; null at the end. */
    next: z.string().nullable(),
    /** How many there are of what was asked for, on all pages. */
    total: z.int(),
  });
/** How a list is asked for. */
export const listQuery = <const Keys extends readonly [string, ...string[]]>(
  keys: Keys,
  usual: Keys[number],
) =>
  z.object({
    text: z.string().max(100).default(''),
    sort: z.enum(keys).default(usual as never),
    order: z.enum(['asc', 'desc']).default('desc'),
    after: z.string().max(500).default(''),
  });

/** What all archives come to. */
export const archivesSummarySchema = z.object({
  archives: z.int(),
  storedBytes: byteCount,
  unproven: z.int(),
  /** The newest that is damaged; null when none is. */
  damaged: z.object({ id, deviceName: z.string() }).nullable(),
});
export type ArchivesSummary = z.infer<typeof archivesSummarySchema>;

export const archiveSorts = [
  'taken',
  'device',
  'serial',
  'customer',
  'ticket',
  'items',
  'bytes',
  'stored',
  'rack',
  'proof',
] as const;

/** A search in the list of archives that somebody wants to have again. */
export const savedViewSchema = z.object({
  id,
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  find: z.string().max(200),
  sort: z.enum(archiveSorts),
  order: z.enum(['asc', 'desc']),
});
export type SavedView = z.infer<typeof savedViewSchema>;
export type ArchiveSort = (typeof archiveSorts)[number];
export const ticketSorts = ['opened', 'number', 'customer', 'device', 'reason'] as const;
export type TicketSort = (typeof ticketSorts)[number];
export const runSorts = ['started', 'work'] as const;
export type RunSort = (typeof runSorts)[number];

export const archiveRowSchema = z.object({
  id,
  ticketNumber: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  takenAt: instant,
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  rackName: z.string(),
  /** When a proof last found it whole; null when none did. */
  provenAt: instant.nullable(),
  damaged: z.boolean(),
});
export type ArchiveRow = z.infer<typeof archiveRowSchema>;

export const archiveSchema = archiveRowSchema.extend({
  passwordHolder: z.string(),
  encrypted: z.boolean(),
  /** Whether two people of the shop can open it together. */
  escrow: z.boolean(),
  reminder: z.string(),
  /** Somebody decided to destroy it: what became of it; null of any other. */
  disposal: z.object({ id, number: z.int(), doneAt: instant.nullable() }).nullable(),
  backups: z.array(backupSchema),
  copies: z.array(copySchema),
});
export type Archive = z.infer<typeof archiveSchema>;

const restoreTrouble = z.enum(
  Object.keys(restoreTroubles) as [RestoreTrouble, ...RestoreTrouble[]],
);
/** Every backup of one device, newest first, and which of them should go back. */
export const restoreChoicesSchema = z.object({
  /** The newest against which nothing speaks; null where something speaks against each. */
  proposed: id.nullable(),
  /** Newer than that, and what speaks against them. */
  passedOver: z.array(z.object({ id, trouble: restoreTrouble })),
  backups: z.array(
    z.object({
      id,
      archiveId: id,
      takenAt: instant,
      ticketNumber: z.string(),
      items: z.int(),
      bytes: byteCount,
      provenAt: instant.nullable(),
      troubles: z.array(restoreTrouble),
      places: z.array(
        z.object({
          rackName: z.string(),
          isHere: z.boolean(),
          /** How long it takes to read it there, by what that rack did before. */
          readMs: z.object({ low: z.number(), high: z.number() }),
        }),
      ),
    }),
  ),
});
export type RestoreChoices = z.infer<typeof restoreChoicesSchema>;

export const stepSchema = z.object({
  id: z.enum(stepIds),
  title: z.string(),
  state: z.enum(stepStates),
  evidence: z.array(z.string()),
  sentence: z.string().nullable(),
  skippable: z.boolean(),
});

export const agreementSchema = z.object({
  kind: z.enum(agreementKinds),
  given: z.boolean(),
  days: z.int().nullable(),
  by: z.string(),
  at: instant,
});

export const ticketRowSchema = z.object({
  number: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  reason: z.enum(visitReasonIds),
  openedAt: instant,
  promisedAt: instant.nullable(),
  /** The step somebody should look at now, and its sentence. */
  step: stepSchema.nullable(),
});
export type TicketRow = z.infer<typeof ticketRowSchema>;

export const auditRowSchema = z.object({
  at: instant,
  by: z.string(),
  what: z.string(),
});

export const ticketSchema = ticketRowSchema.extend({
  customer: customerSchema,
  agreed: z.object({
    backup: z.boolean(),
    lookIn: z.boolean(),
    escrow: z.boolean(),
    keepDays: z.int(),
  }),
  /** Everything that was said about it, the newest first. */
  agreements: z.array(agreementSchema),
  notes: z.string(),
  /** Null while it is open. */
  closedAt: instant.nullable(),
  openedBy: z.string(),
  runSheet: z.array(stepSchema),
  /** Where the ticket's device is now; null when it is not on the bench. */
  berth: z.int().nullable(),
  archiveIds: z.array(id),
  /** What the device that its backup went onto still asks of its owner, and what it asked; empty when that is not on the bench. */
  settling: z.array(settlingStepSchema),
  /** An archive of an earlier visit that this device’s next backup can go into; null when there is none there. */
  knownArchive: z
    .object({ id, rackName: z.string(), takenAt: instant, reminder: z.string() })
    .nullable(),
  operations: z.array(operationSchema),
  history: z.array(auditRowSchema),
});
export type Ticket = z.infer<typeof ticketSchema>;

export const foundSchema = z.object({
  kind: z.enum(['ticket', 'archive', 'device', 'rack']),
  /** Where in the application it is. */
  path: z.string(),
  title: z.string(),
  detail: z.string(),
});
export type Found = z.infer<typeof foundSchema>;

/** What the shop knows of a device before a ticket is opened for it. */
export const knownVisitsSchema = z.object({
  device: knownDeviceSchema.nullable(),
  /** Whose it was at its last visit. */
  customer: customerSchema.nullable(),
  visits: z.array(
    z.object({
      number: z.string(),
      customerName: z.string(),
      openedAt: instant,
      reason: z.enum(visitReasonIds),
    }),
  ),
});
export type KnownVisits = z.infer<typeof knownVisitsSchema>;

/** Everything on a device, as columns: `ids[i]`, `classes[i]` … are one item. */
export const listingSchema = z.object({
  revision: z.string(),
  groups: z.array(
    z.object({
      class: z.enum(dataClassIds),
      id: z.string(),
      name: z.string(),
      kind: z.enum(['application', 'thread', 'database', 'album']),
      items: z.int(),
      bytes: byteCount,
      sealed: z.boolean(),
      offered: z.boolean().nullable(),
    }),
  ),
  ids: z.array(z.string()),
  /** Places in {@link dataClassIds}. */
  classes: z.array(z.int()),
  /** Places in `groupIds`. */
  inGroups: z.array(z.int()),
  groupIds: z.array(z.string()),
  /** Null unless the customer agreed that the shop looks inside. */
  names: z.array(z.string()).nullable(),
  bytes: z.array(z.int()),
  /** ms since 1970, UTC. */
  modified: z.array(z.int()),
});
export type Listing = z.infer<typeof listingSchema>;

/** What a plan would cost, and where it would go. */
export const planCostSchema = z.object({
  estimate: estimateSchema,
  /** One by one. */
  classes: z.array(
    z.object({
      class: z.enum(dataClassIds),
      items: z.int(),
      bytes: byteCount,
      storedBytes: z.number(),
      ms: z.number(),
    }),
  ),
  /** What the link gave while it was measured, bytes a second; null when nothing was read. */
  linkRate: z.number().nullable(),
  pastRuns: z.int(),
  racks: z.array(
    z.object({
      rackId: id,
      fits: z.boolean(),
      freeAfterLow: z.number(),
      freeAfterHigh: z.number(),
    }),
  ),
  /** Null when none has room. */
  proposal: z.object({ rackId: id, reason: z.string() }).nullable(),
  /** What the archive's folder would be called. */
  name: z.string(),
});
export type PlanCost = z.infer<typeof planCostSchema>;

/** What a further backup would cost. */
export const furtherCostSchema = z.object({
  /** In the archive's newest backup as it is on the device. */
  same: amountSchema,
  toSend: amountSchema,
  estimate: estimateSchema,
  /** On the rack that the archive lies on. */
  rackName: z.string(),
  fits: z.boolean(),
  freeAfterLow: z.number(),
  freeAfterHigh: z.number(),
});
export type FurtherCost = z.infer<typeof furtherCostSchema>;

/** What was taken before, and is proposed again. */
export const planSchema = z.object({
  id,
  /** Empty for the one that is only remembered. */
  name: z.string(),
  mode: z.enum(planModes),
  choice: choiceSchema,
  encrypted: z.boolean(),
  /** Why it is proposed. */
  because: z.string(),
});
export type Plan = z.infer<typeof planSchema>;

/** One's own account. */
export const accountSchema = z.object({
  /** Browsers that are signed in with it now, the one that asks first. */
  sessions: z.array(
    z.object({
      id,
      address: z.string(),
      browser: z.string(),
      since: instant,
      usedAt: instant,
      current: z.boolean(),
      locked: z.boolean(),
    }),
  ),
  /** Whether it gives a code from its holder’s own device. */
  hasCode: z.boolean(),
  hasPin: z.boolean(),
  passkeys: z.array(
    z.object({ id, name: z.string(), createdAt: instant, usedAt: instant.nullable() }),
  ),
  /** The newest first; `refused`: somebody tried and was not let in. */
  recent: z.array(z.object({ at: instant, what: z.string(), refused: z.boolean() })),
});
export type Account = z.infer<typeof accountSchema>;

/** What the shop decided once for everybody. */
export const shopSettingsSchema = z.object({
  /** What stands on its papers and its screens. */
  shop: shopDetailsSchema,
  namePattern: z
    .string()
    .trim()
    .max(200)
    .superRefine((pattern, context) => {
      const problem = patternProblem(pattern);
      if (problem) context.addIssue({ code: 'custom', message: problem });
    }),
  updatePolicy: z.enum(updatePolicies),
  /** How old a proof may be when a device is erased on the strength of it; hours. */
  proofAge: z.enum(proofAges),
  /** How fast copies are made at most. */
  copySpeed: z.enum(copySpeeds),
  /** How one signs in. */
  signIn: signInRulesSchema,
  looking: lookingRulesSchema,
  bench: benchRulesSchema,
  care: careRulesSchema,
  disposal: disposalRulesSchema,
});
export type ShopSettings = z.infer<typeof shopSettingsSchema>;

/** Everything that the catalogue has of a customer. */
export const customerFormatSchema = z.enum(['json', 'pdf']);
export const customerDataSchema = z.object({
  customer: customerSchema,
  since: instant,
  visits: z.array(
    z.object({
      number: z.string(),
      reason: z.string(),
      notes: z.string(),
      openedAt: instant,
      closedAt: instant.nullable(),
      device: z.object({
        family: z.string(),
        model: z.string(),
        name: z.string(),
        serial: z.string(),
        imei: z.string(),
      }),
      agreed: z.array(z.object({ what: z.string(), given: z.boolean(), at: instant })),
    }),
  ),
  /** What is kept, and on which racks. */
  backups: z.array(
    z.object({ takenAt: instant, items: z.int(), bytes: byteCount, racks: z.array(z.string()) }),
  ),
  destroyed: z.array(z.object({ number: z.int(), device: z.string(), doneAt: instant.nullable() })),
  record: z.array(z.object({ at: instant, what: z.string(), by: z.string() })),
  /** Why they cannot be forgotten yet; empty where nothing is in the way. */
  inTheWay: z.array(z.string()),
});
export type CustomerData = z.infer<typeof customerDataSchema>;

/** What whoever opens or closes the shop has to know. */
export const daySheetsSchema = z.enum(['opening', 'closing']);
export const daySheetSchema = z.object({
  which: daySheetsSchema,
  at: instant,
  /** What to do first. */
  now: z.string(),
  sections: z.array(
    z.object({
      title: z.string(),
      /** `to`: where in the application it is looked after. */
      lines: z.array(z.object({ name: z.string(), text: z.string(), to: z.string().nullable() })),
      /** Said where there are no lines. */
      empty: z.string(),
    }),
  ),
});
export type DaySheet = z.infer<typeof daySheetSchema>;

/** What is known of one thing that can go wrong with the installation, and what to do. */
export const findingSchema = z.object({
  about: z.string(),
  state: z.enum(['well', 'look', 'wrong']),
  what: z.string(),
  next: z.string(),
});

/** How other computers reach the program. */
export const networkSchema = z.object({
  rules: networkRulesSchema,
  /** Where the application is found by them. */
  addresses: z.array(z.string()),
  /** Where customers’ own phones find the page for their password. */
  deskAddress: z.string(),
  /** On loopback: what a proxy forwards to. */
  localPorts: z.object({ shop: z.int(), desk: z.int() }),
  /** Names and addresses that this computer has. */
  suggested: z.array(z.string()),
  certificate: z
    .object({
      until: instant,
      /** SHA-256. */
      fingerprint: z.string(),
      /** Names and addresses that it is not for. */
      uncovered: z.array(z.string()),
    })
    .nullable(),
  /** Where certificates are the installation’s own. */
  authority: z.object({ until: instant, fingerprint: z.string() }).nullable(),
});
export type NetworkView = z.infer<typeof networkSchema>;

/** How the catalogue itself is saved. */
export const savesSchema = z.object({
  /** What saves are sealed to, and since when; null where nobody made a key yet: then there are none. */
  key: z.object({ recipient: z.string(), since: instant }).nullable(),
  /** One is being made now. */
  running: z.boolean(),
  racks: z.array(
    z.object({
      rackId: id,
      rackName: z.string(),
      present: z.boolean(),
      /** The last that lies there whole; null where none does. */
      savedAt: instant.nullable(),
      bytes: byteCount.nullable(),
      /** What was wrong with the last try; null where nothing was. */
      problem: z.string().nullable(),
    }),
  ),
});
export type SavesView = z.infer<typeof savesSchema>;

/** A folder that somebody recovered from a device. Its name is as they gave it. */
export const recoveredFolderSchema = z.object({
  rackId: id,
  rackName: z.string(),
  name: z.string(),
});
export type RecoveredFolder = z.infer<typeof recoveredFolderSchema>;

export const regularExtractSchema = z.object({ rackId: rackIdSchema, what: recordsExtractSchema });
export type RegularExtract = z.infer<typeof regularExtractSchema>;

/** What is taken from a device again and again: a backup, or one narrow set as an open file. */
export const regularWorkSchema = z.object({
  id,
  /** Null for a backup of everything. */
  extract: regularExtractSchema.nullable(),
  /** It is kept in step: with another device, or where that is null, with the customer's own server. Null for everything else. */
  sync: z.object({ with: z.string().nullable() }).nullable(),
  ticketNumber: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  schedule: scheduleSchema,
  state: z.enum(['waiting', 'due', 'missed']),
  nextDue: instant.nullable(),
  lastDone: instant.nullable(),
  /** Until when this program holds its password in memory; null when it does not, or none is needed. */
  armedUntil: instant.nullable(),
  /** Why it cannot start by itself now; null when it can, or need not. */
  waitsFor: z.string().nullable(),
});
export type RegularWork = z.infer<typeof regularWorkSchema>;

/** One day of the bench. */
export const dayReportSchema = z.object({
  /** 0 to 23, shop time. */
  hours: z.array(z.object({ hour: z.int(), bytes: byteCount, runs: z.int(), failed: z.int() })),
  /** The shop’s last backups that were estimated, the oldest first; errors relative to what was expected. */
  estimates: z.array(
    z.object({
      at: instant,
      ticketNumber: z.string().nullable(),
      storedError: z.number(),
      timeError: z.number(),
      storedInRange: z.boolean(),
      timeInRange: z.boolean(),
    }),
  ),
});
export type DayReport = z.infer<typeof dayReportSchema>;
