import type {
  AgreementKind,
  BackupScope,
  Choice,
  ClassAmount,
  CoverageLine,
  Estimate,
  ExtractSet,
  FailedItems,
  Lock,
  OperationKind,
  OperationState,
  PlanMode,
  Problem,
  ArchiveId,
  BackupId,
  LookInEnding,
  CopyId,
  CopyState,
  RackId,
  RackKind,
  DeviceId,
  KeepingKind,
  LinkDeviceId,
  MoveState,
  ProofLevel,
  ProofOutcome,
  ProofState,
  Schedule,
  StepId,
  VisitReason,
  Permission,
} from '@bright-cellar/core';
import type { ArchiveSort, Change, RegularExtract } from '@bright-cellar/contract';
import {
  bigint,
  boolean,
  char,
  double,
  index,
  int,
  longtext,
  mediumtext,
  mysqlTable,
  primaryKey,
  text,
  tinyint,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { instantColumn, jsonColumn, searchColumn, uuidColumn } from './columns.js';

/**
 * The catalogue. It knows where things are and what was done; it knows no password, no key, and no
 * name or content of any customer's file.
 */
/** A value whose shape is counted: whoever reads it parses it. */
export interface Versioned {
  version: number;
  value: unknown;
}

const byteColumn = (name: string) => bigint(name, { mode: 'number', unsigned: true });

export const technicians = mysqlTable('technicians', {
  id: uuidColumn('id').primaryKey(),
  login: varchar('login', { length: 60 }).notNull().unique(),
  name: varchar('name', { length: 120 }).notNull(),
  /** Argon2id, in its own text form. */
  passwordHash: varchar('password_hash', { length: 255 }).notNull(),
  /** Whoever was there before there were roles could do everything. */
  role: varchar('role', { length: 36 }).notNull().default('keeper'),
  createdAt: instantColumn('created_at').notNull(),
  /** What codes from their own device are made of (RFC 6238), sealed under the installation’s key; null where they use none. */
  totpSecret: varchar('totp_secret', { length: 300 }),
  /** The last half minute of which a code was used: none is good twice. */
  totpUsed: bigint('totp_used', { mode: 'number', unsigned: true }).notNull().default(0),
  /** Argon2id; null where they have none. Opens only where somebody signed in in full today. */
  pinHash: varchar('pin_hash', { length: 255 }),
  /** Wrong ones in a row since they last signed in in full. */
  pinTries: int('pin_tries').notNull().default(0),
  /** They work here no longer: they cannot sign in, and what they did stays on record under their name. */
  leftAt: instantColumn('left_at'),
});

/** A search in a list that somebody wants to have again. Their own. */
export const savedViews = mysqlTable(
  'saved_views',
  {
    id: uuidColumn('id').primaryKey(),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    name: varchar('name', { length: 60 }).notNull(),
    find: varchar('find', { length: 200 }).notNull(),
    sort: varchar('sort', { length: 20 }).$type<ArchiveSort>().notNull(),
    order: varchar('order', { length: 4 }).$type<'asc' | 'desc'>().notNull(),
  },
  (table) => [uniqueIndex('saved_views_name').on(table.technicianId, table.name)],
);

export const sessions = mysqlTable('sessions', {
  /** SHA-256 of the cookie's token: the token itself is nowhere but in the browser. */
  tokenHash: varchar('token_hash', { length: 64 }).primaryKey(),
  technicianId: uuidColumn('technician_id')
    .notNull()
    .references(() => technicians.id),
  createdAt: instantColumn('created_at').notNull(),
  expiresAt: instantColumn('expires_at').notNull(),
  /** When somebody last did something in it; null until they did. */
  usedAt: instantColumn('used_at'),
  /** What it is told by to its holder, who ends it; the token’s digest stays here. */
  id: uuidColumn('id').notNull().unique(),
  /** Where it was begun from, and with what: told to its holder. */
  address: varchar('address', { length: 64 }).notNull().default(''),
  browser: varchar('browser', { length: 160 }).notNull().default(''),
  /** Nobody is let in until whoever holds it says who they are. */
  lockedAt: instantColumn('locked_at'),
});

/** Computers on which somebody signed in in full: a PIN opens there until the day is over. */
export const trustedComputers = mysqlTable('trusted_computers', {
  /** SHA-256 of the cookie’s token. */
  tokenHash: char('token_hash', { length: 64 }).primaryKey(),
  expiresAt: instantColumn('expires_at').notNull(),
});

/** Public keys that somebody signs in with (WebAuthn). */
export const passkeys = mysqlTable(
  'passkeys',
  {
    id: uuidColumn('id').primaryKey(),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    /** SHA-256 of the credential’s id, which can be long. */
    credentialHash: char('credential_hash', { length: 64 }).notNull().unique(),
    credentialId: text('credential_id').notNull(),
    /** COSE, base64url. */
    publicKey: text('public_key').notNull(),
    counter: bigint('counter', { mode: 'number', unsigned: true }).notNull(),
    name: varchar('name', { length: 60 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    usedAt: instantColumn('used_at'),
  },
  (table) => [index('passkeys_of').on(table.technicianId)],
);

export const customers = mysqlTable(
  'customers',
  {
    id: uuidColumn('id').primaryKey(),
    name: varchar('name', { length: 120 }).notNull(),
    phone: varchar('phone', { length: 40 }).notNull(),
    email: varchar('email', { length: 254 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    /** What they are found by, see {@link searchColumn}. */
    search: searchColumn('search').notNull(),
  },
  (table) => [index('customers_name_search').on(table.name, table.search)],
);

/** Devices as they were last read from the cable. */
export const devices = mysqlTable('devices', {
  id: uuidColumn('id').$type<DeviceId>().primaryKey(),
  serial: varchar('serial', { length: 64 }).notNull().unique(),
  family: varchar('family', { length: 40 }).notNull(),
  familyName: varchar('family_name', { length: 60 }).notNull(),
  kind: varchar('kind', { length: 20 }).notNull(),
  model: varchar('model', { length: 60 }).notNull(),
  name: varchar('name', { length: 120 }).notNull(),
  imei: varchar('imei', { length: 20 }),
  osName: varchar('os_name', { length: 60 }).notNull(),
  osVersion: varchar('os_version', { length: 30 }).notNull(),
  capacity: byteColumn('capacity').notNull(),
  /** `typed`: it was never on the bench, somebody wrote down what is printed on it. */
  readFrom: varchar('read_from', { length: 10 })
    .$type<'cable' | 'typed'>()
    .notNull()
    .default('cable'),
  seenAt: instantColumn('seen_at').notNull(),
});

export const tickets = mysqlTable(
  'tickets',
  {
    id: uuidColumn('id').primaryKey(),
    /** Digits only, so that a scanner can type it. */
    number: varchar('number', { length: 12 }).notNull().unique(),
    customerId: uuidColumn('customer_id')
      .notNull()
      .references(() => customers.id),
    deviceId: uuidColumn('device_id')
      .$type<DeviceId>()
      .notNull()
      .references(() => devices.id),
    reason: varchar('reason', { length: 20 }).$type<VisitReason>().notNull(),
    promisedAt: instantColumn('promised_at'),
    notes: text('notes').notNull(),
    openedBy: uuidColumn('opened_by')
      .notNull()
      .references(() => technicians.id),
    openedAt: instantColumn('opened_at').notNull(),
    closedAt: instantColumn('closed_at'),
  },
  (table) => [
    index('tickets_closed_opened').on(table.closedAt, table.openedAt),
    index('tickets_closed_promised').on(table.closedAt, table.promisedAt, table.openedAt),
    index('tickets_device_opened').on(table.deviceId, table.openedAt),
  ],
);

/** What the customer agreed to, or not, as it was last said: each with who noted it and when. Earlier words stay. */
export const agreements = mysqlTable(
  'agreements',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    kind: varchar('kind', { length: 20 }).$type<AgreementKind>().notNull(),
    given: boolean('given').notNull(),
    /** How long it is kept, where it is about that. */
    days: int('days'),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
  },
  (table) => [index('agreements_ticket').on(table.ticketId)],
);

/** Steps of a run sheet that somebody marked as done, or skipped with a reason. */
export const ticketSteps = mysqlTable(
  'ticket_steps',
  {
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    step: varchar('step', { length: 20 }).$type<StepId>().notNull(),
    state: varchar('state', { length: 10 }).$type<'done' | 'skipped'>().notNull(),
    /** Why it was skipped, or what was found. */
    reason: varchar('reason', { length: 300 }).notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.ticketId, table.step] })],
);

/** What was taken last time, so that it is proposed next time. Never single items: their names are the customer's. */
export const plans = mysqlTable('plans', {
  id: uuidColumn('id').primaryKey(),
  /** Empty for one that was only remembered. */
  name: varchar('name', { length: 60 }).notNull(),
  family: varchar('family', { length: 40 }).notNull(),
  deviceId: uuidColumn('device_id')
    .$type<DeviceId>()
    .references(() => devices.id),
  reason: varchar('reason', { length: 20 }).$type<VisitReason>(),
  technicianId: uuidColumn('technician_id')
    .notNull()
    .references(() => technicians.id),
  mode: varchar('mode', { length: 20 }).$type<PlanMode>().notNull(),
  choice: jsonColumn<Choice>('choice').notNull(),
  encrypted: boolean('encrypted').notNull(),
  usedAt: instantColumn('used_at').notNull(),
});

/** What is taken regularly from a ticket’s device. Passwords are typed again when due, or held in memory; never here. */
export const schedules = mysqlTable(
  'schedules',
  {
    id: uuidColumn('id').primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    /** One schedule each: a device’s messages may be taken more often than all of it. */
    takes: varchar('takes', { length: 90 }).$type<'backup' | 'sync' | ExtractSet>().notNull(),
    schedule: jsonColumn<Schedule>('schedule').notNull(),
    /** What kind of file; null for a backup. */
    extract: jsonColumn<RegularExtract>('extract'),
    /** Whom it is kept in step with and how, sealed; null for everything else. */
    sync: longtext('sync'),
    /** The other device's serial, where that is whom. */
    syncWith: varchar('sync_with', { length: 64 }),
    createdBy: uuidColumn('created_by')
      .notNull()
      .references(() => technicians.id),
    createdAt: instantColumn('created_at').notNull(),
  },
  (table) => [uniqueIndex('schedules_ticket_takes').on(table.ticketId, table.takes)],
);

/** What the shop decided once for everybody, by name. */
export const settings = mysqlTable('settings', {
  name: varchar('name', { length: 40 }).primaryKey(),
  value: jsonColumn<unknown>('value').notNull(),
});

/** What stands on the shop's papers beside its name: one row, or none. */
export const shopLogo = mysqlTable('shop_logo', {
  id: tinyint('id').primaryKey(),
  /** PNG, base64. */
  png: mediumtext('png').notNull(),
});

/** Who looked into which backup, when, why and how much of it: the look itself is in memory only. */
export const lookIns = mysqlTable(
  'look_ins',
  {
    id: uuidColumn('id').primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    backupId: uuidColumn('backup_id').$type<BackupId>().notNull(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    technicianId: uuidColumn('technician_id')
      .notNull()
      .references(() => technicians.id),
    /** What for, as whoever looked said it. */
    reason: varchar('reason', { length: 200 }).notNull(),
    openedAt: instantColumn('opened_at').notNull(),
    endedAt: instantColumn('ended_at'),
    ending: varchar('ending', { length: 20 }).$type<LookInEnding>(),
    /** Items of which anything was shown: messages, cards, calls, names of files. */
    shown: int('shown').notNull().default(0),
    /** Files that were taken out. */
    taken: int('taken').notNull().default(0),
    /** Items that were opened by themselves: pictures. */
    opened: int('opened').notNull().default(0),
  },
  (table) => [
    index('look_ins_ended').on(table.endedAt),
    index('look_ins_ticket').on(table.ticketId),
  ],
);

/** The adapter that speaks to devices, where it is not the one that comes with the program: one row, or none. */
export const namedAdapter = mysqlTable('named_adapter', {
  id: tinyint('id').primaryKey(),
  address: varchar('address', { length: 300 }).notNull(),
  /** Sealed under the installation's key. */
  token: text('token').notNull(),
});

export const racks = mysqlTable('racks', {
  id: uuidColumn('id').$type<RackId>().primaryKey(),
  name: varchar('name', { length: 60 }).notNull().unique(),
  /** Where it is, by its kind, and what one signs in with, sealed. See `racks/addresses.ts`. */
  address: jsonColumn<Versioned>('address').notNull(),
  reserve: byteColumn('reserve').notNull(),
  kind: varchar('kind', { length: 20 }).$type<RackKind>().notNull().default('fixed'),
  /** Stands on its label, and as bars; see `rackCode`. */
  number: int('number').autoincrement().notNull().unique(),
  /** What people know it by beside its name: a ticket's number where it left or came with a customer, a shelf. */
  note: varchar('note', { length: 120 }).notNull().default(''),
  /** It stands somewhere else than the shop. */
  offPremises: boolean('off_premises').notNull().default(false),
  /** Nothing is put there, and nobody looks for it, until it is added again. */
  retiredAt: instantColumn('retired_at'),
  /** What `racks/watch.ts` saw last: whether it is here, its room, and when that was. */
  present: boolean('present').notNull().default(false),
  capacity: byteColumn('capacity').notNull().default(0),
  free: byteColumn('free').notNull().default(0),
  seenAt: instantColumn('seen_at'),
  /** Why it is away, where it says so itself. */
  awayWhy: varchar('away_why', { length: 200 }).notNull().default(''),
  /** Kept, not counted each time: what the catalogue says lies there. See `archives/rows.ts`. */
  archives: int('archives').notNull().default(0),
  storedBytes: byteColumn('stored_bytes').notNull().default(0),
});

/** A rack's room at the end of each day on which it was here. */
export const rackDays = mysqlTable(
  'rack_days',
  {
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    /** Days since 1 January 1970, UTC. */
    day: int('day').notNull(),
    free: byteColumn('free').notNull(),
    /** What archives took of it. */
    storedBytes: byteColumn('stored_bytes').notNull(),
  },
  (table) => [primaryKey({ columns: [table.rackId, table.day] })],
);

export const archives = mysqlTable(
  'archives',
  {
    id: uuidColumn('id').$type<ArchiveId>().primaryKey(),
    ticketId: uuidColumn('ticket_id')
      .notNull()
      .references(() => tickets.id),
    deviceId: uuidColumn('device_id')
      .$type<DeviceId>()
      .notNull()
      .references(() => devices.id),
    passwordHolder: varchar('password_holder', { length: 20 }).notNull(),
    /** `false`: anybody can open it, with the password that docs/archive-format.md prints. */
    encrypted: boolean('encrypted').notNull().default(true),
    /** Whether the shop’s escrow can open it too. */
    escrow: boolean('escrow').notNull().default(false),
    reminder: varchar('reminder', { length: 200 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    /** Somebody decided to destroy it: from then on it is nowhere to be found, and the disposal says what became of it. */
    disposedAt: instantColumn('disposed_at'),
  },
  (table) => [index('archives_device_created').on(table.deviceId, table.createdAt)],
);

/**
 * What the list of archives shows, sorts and is searched by: one row an archive, made anew by `archives/rows.ts` whenever the
 * archive changes.
 */
/** In it stands all that says what an archive is owed. */
export const OWED_INDEX = 'archive_rows_owed';

export const archiveRows = mysqlTable(
  'archive_rows',
  {
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .primaryKey()
      .references(() => archives.id),
    /** Of its newest backup. */
    takenAt: instantColumn('taken_at').notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    deviceName: varchar('device_name', { length: 120 }).notNull(),
    serial: varchar('serial', { length: 64 }).notNull(),
    customerName: varchar('customer_name', { length: 120 }).notNull(),
    ticketNumber: varchar('ticket_number', { length: 12 }).notNull(),
    rackName: varchar('rack_name', { length: 200 }).notNull(),
    provenAt: instantColumn('proven_at'),
    proof: varchar('proof', { length: 10 }).$type<ProofState>().notNull(),
    /** Copies that hold all of it and are not known to be damaged, on racks in use; and whether one of them is off the premises. */
    goodCopies: int('good_copies').notNull().default(0),
    offPremises: boolean('off_premises').notNull().default(false),
    /** Those that are whole and older. */
    olderCopies: int('older_copies').notNull().default(0),
    /** From when it is kept no longer by what was agreed; null where that is not in sight. */
    dueAt: instantColumn('due_at'),
    /** Somebody holds it: it is not destroyed, due or not. */
    held: boolean('held').notNull().default(false),
    search: searchColumn('search').notNull(),
  },
  (table) => [
    index('archive_rows_due').on(table.dueAt, table.archiveId),
    index('archive_rows_held').on(table.held, table.archiveId),
    index(OWED_INDEX).on(table.goodCopies, table.offPremises, table.olderCopies),
    index('archive_rows_taken').on(table.takenAt, table.archiveId),
    index('archive_rows_items').on(table.items, table.archiveId),
    index('archive_rows_bytes').on(table.bytes, table.archiveId),
    index('archive_rows_stored').on(table.storedBytes, table.archiveId),
    index('archive_rows_device').on(table.deviceName, table.archiveId),
    index('archive_rows_serial').on(table.serial, table.archiveId),
    index('archive_rows_customer').on(table.customerName, table.archiveId),
    index('archive_rows_ticket').on(table.ticketNumber, table.archiveId),
    index('archive_rows_rack').on(table.rackName, table.archiveId),
    index('archive_rows_proof').on(table.proof, table.archiveId),
    index('archive_rows_proof_stored').on(table.proof, table.storedBytes),
    index('archive_rows_search').on(table.takenAt, table.archiveId, table.search),
  ],
);

/** What lies on a rack, by its size. */
export const COPIES_INDEX = 'copies_rack_stored';
/** Which copies nobody looked at for longest. */
export const CHECKED_INDEX = 'copies_checked';

/** An archive as it lies in one place. */
export const copies = mysqlTable(
  'copies',
  {
    id: uuidColumn('id').$type<CopyId>().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    folder: varchar('folder', { length: 255 }).notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    /** Which state of the archive it holds, and the SHA-512 of its manifest then. */
    generation: int('generation').notNull().default(0),
    digest: varchar('digest', { length: 128 }).notNull().default(''),
    /** What the last look at it in this state found, how close it looked, and when; `unknown` where nobody looked since it changed. */
    state: varchar('state', { length: 20 }).$type<CopyState>().notNull().default('unknown'),
    checkedAt: instantColumn('checked_at'),
    checkedLevel: varchar('checked_level', { length: 20 }).$type<ProofLevel>(),
    /** The customer took their consent to escrow back, and its key is still to be taken out of this copy. */
    escrowOwed: boolean('escrow_owed').notNull().default(false),
    createdAt: instantColumn('created_at').notNull(),
  },
  (table) => [
    index(COPIES_INDEX).on(table.rackId, table.storedBytes),
    index(CHECKED_INDEX).on(table.checkedAt, table.rackId),
  ],
);

/** What was said of one archive beside what the ticket agreed: that it is kept longer, or held. */
export const keepings = mysqlTable(
  'keepings',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    kind: varchar('kind', { length: 12 }).$type<KeepingKind>().notNull(),
    /** Until when; null where it is until somebody is told, and of a hold. */
    until: instantColumn('until'),
    reason: varchar('reason', { length: 300 }).notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    at: instantColumn('at').notNull(),
    /** Replaced by a later word, or lifted. */
    endedAt: instantColumn('ended_at'),
  },
  (table) => [index('keepings_archive').on(table.archiveId)],
);

/** Archives that were destroyed, or are being: what the certificate says. */
export const disposals = mysqlTable(
  'disposals',
  {
    id: uuidColumn('id').primaryKey(),
    /** Of the certificate. */
    number: int('number').autoincrement().notNull().unique(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    ticketNumber: varchar('ticket_number', { length: 12 }).notNull(),
    deviceName: varchar('device_name', { length: 120 }).notNull(),
    /** Maker's family and model, and the serial, as the certificate says them. */
    device: varchar('device', { length: 160 }).notNull(),
    serial: varchar('serial', { length: 64 }).notNull(),
    /** Empty once the house rules let names go. */
    customerName: varchar('customer_name', { length: 120 }).notNull(),
    reason: varchar('reason', { length: 300 }).notNull(),
    backups: int('backups').notNull(),
    firstTakenAt: instantColumn('first_taken_at').notNull(),
    lastTakenAt: instantColumn('last_taken_at').notNull(),
    decidedBy: uuidColumn('decided_by')
      .notNull()
      .references(() => technicians.id),
    decidedAt: instantColumn('decided_at').notNull(),
    /** When the last copy was seen to be gone; null while one is owed. */
    doneAt: instantColumn('done_at'),
  },
  (table) => [index('disposals_done').on(table.doneAt, table.number)],
);

/** Each copy of an archive that is destroyed: owed until it was seen to be gone. */
export const disposalCopies = mysqlTable(
  'disposal_copies',
  {
    copyId: uuidColumn('copy_id').$type<CopyId>().primaryKey(),
    disposalId: uuidColumn('disposal_id')
      .notNull()
      .references(() => disposals.id),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    folder: varchar('folder', { length: 255 }).notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    digest: varchar('digest', { length: 128 }).notNull(),
    goneAt: instantColumn('gone_at'),
    /** Something of it was there to destroy; false where it had gone before. Null while it is owed. */
    wasThere: boolean('was_there'),
  },
  (table) => [
    index('disposal_copies_disposal').on(table.disposalId),
    index('disposal_copies_owed').on(table.goneAt, table.rackId),
  ],
);

/** Copies that were: where they lay, and what became of them. What was found of them is kept with their ids. */
export const goneCopies = mysqlTable(
  'gone_copies',
  {
    id: uuidColumn('id').$type<CopyId>().primaryKey(),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>().notNull(),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    storedBytes: byteColumn('stored_bytes').notNull(),
    digest: varchar('digest', { length: 128 }).notNull(),
    createdAt: instantColumn('created_at').notNull(),
    goneAt: instantColumn('gone_at').notNull(),
    operationId: uuidColumn('operation_id').notNull(),
  },
  (table) => [index('gone_copies_archive').on(table.archiveId)],
);

/** A change of a copy that is being decided on its medium: what to write down once it is. One at a time. */
export const copyChanges = mysqlTable('copy_changes', {
  copyId: uuidColumn('copy_id')
    .$type<CopyId>()
    .primaryKey()
    .references(() => copies.id),
  change: jsonColumn<Versioned>('change').notNull(),
});

export const backups = mysqlTable(
  'backups',
  {
    id: uuidColumn('id').$type<BackupId>().primaryKey(),
    archiveId: uuidColumn('archive_id')
      .$type<ArchiveId>()
      .notNull()
      .references(() => archives.id),
    /** The visit during which it was taken; an archive can outlast many. */
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    operationId: uuidColumn('operation_id').notNull(),
    /** The state of the archive that it came with: a copy in an older state does not hold it. */
    generation: int('generation').notNull().default(0),
    /** The state from which it is not in the archive any more; null while it is. A copy in an older state holds it still. */
    prunedIn: int('pruned_in'),
    takenAt: instantColumn('taken_at').notNull(),
    takenBy: uuidColumn('taken_by')
      .notNull()
      .references(() => technicians.id),
    osVersion: varchar('os_version', { length: 30 }).notNull(),
    /** The device's content revision when it was read: tells whether the backup is still current. */
    contentRevision: varchar('content_revision', { length: 64 }).notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    /** What the archive did not have before: items, and bytes of contents. */
    newItems: int('new_items').notNull(),
    newBytes: byteColumn('new_bytes').notNull(),
    durationMs: int('duration_ms').notNull(),
    /** SHA-512 of the archive's manifest when it was taken. */
    digest: varchar('digest', { length: 128 }).notNull(),
    /** SHA-512 of its own list. */
    listDigest: varchar('list_digest', { length: 128 }).notNull().default(''),
    classes: jsonColumn<ClassAmount[]>('classes').notNull(),
    failed: jsonColumn<FailedItems[]>('failed').notNull(),
    /** What was to be taken: everything, or not; an erase may rest on everything only. */
    scope: jsonColumn<BackupScope>('scope').notNull(),
    /** What this backup does not hold, why, and how it comes back. */
    coverage: jsonColumn<CoverageLine[]>('coverage').notNull(),
  },
  (table) => [
    index('backups_archive_taken').on(table.archiveId, table.takenAt),
    index('backups_ticket_taken').on(table.ticketId, table.takenAt),
    index('backups_operation').on(table.operationId),
  ],
);

/** Every look at a copy: what was read of it, how fast, and what was found. The ledger of a rack's care. */
export const looks = mysqlTable(
  'looks',
  {
    id: uuidColumn('id').primaryKey(),
    /** It may have gone since. */
    copyId: uuidColumn('copy_id').$type<CopyId>().notNull(),
    rackId: uuidColumn('rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    operationId: uuidColumn('operation_id').notNull(),
    at: instantColumn('at').notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    level: varchar('level', { length: 20 }).$type<ProofLevel>().notNull(),
    outcome: varchar('outcome', { length: 20 }).$type<ProofOutcome>().notNull(),
    readBytes: byteColumn('read_bytes').notNull(),
    durationMs: int('duration_ms').notNull(),
    what: varchar('what', { length: 400 }).notNull(),
  },
  (table) => [
    index('looks_rack_at').on(table.rackId, table.at),
    index('looks_copy_at').on(table.copyId, table.at),
  ],
);

/** What was found of a backup in one copy, in one state of it. */
export const proofs = mysqlTable(
  'proofs',
  {
    id: uuidColumn('id').primaryKey(),
    /** Which came later, whatever the computer’s clock said meanwhile. */
    sequence: bigint('sequence', { mode: 'number', unsigned: true })
      .autoincrement()
      .notNull()
      .unique(),
    /** It may have gone since. */
    copyId: uuidColumn('copy_id').$type<CopyId>().notNull(),
    generation: int('generation').notNull().default(0),
    backupId: uuidColumn('backup_id')
      .$type<BackupId>()
      .notNull()
      .references(() => backups.id),
    operationId: uuidColumn('operation_id').notNull(),
    at: instantColumn('at').notNull(),
    by: uuidColumn('by')
      .notNull()
      .references(() => technicians.id),
    level: varchar('level', { length: 20 }).$type<ProofLevel>().notNull(),
    outcome: varchar('outcome', { length: 20 }).$type<ProofOutcome>().notNull(),
    items: int('items').notNull(),
    bytes: byteColumn('bytes').notNull(),
    storedBytes: byteColumn('stored_bytes').notNull(),
    what: varchar('what', { length: 400 }).notNull(),
  },
  (table) => [index('proofs_backup_sequence').on(table.backupId, table.sequence)],
);

/** Long work. The row outlives every process; the lease says which process is doing it. */
export const operations = mysqlTable(
  'operations',
  {
    id: uuidColumn('id').primaryKey(),
    kind: varchar('kind', { length: 20 }).$type<OperationKind>().notNull(),
    state: varchar('state', { length: 20 }).$type<OperationState>().notNull(),
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    /** As the link named it then. */
    deviceId: varchar('device_id', { length: 64 }).$type<LinkDeviceId>(),
    deviceName: varchar('device_name', { length: 120 }),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>(),
    backupId: uuidColumn('backup_id').$type<BackupId>(),
    /** Parsed on the way out, as its kind says in core. */
    input: jsonColumn<Versioned>('input').notNull(),
    phase: varchar('phase', { length: 20 }).notNull(),
    doneBytes: byteColumn('done_bytes').notNull().default(0),
    totalBytes: byteColumn('total_bytes').notNull().default(0),
    doneItems: int('done_items').notNull().default(0),
    totalItems: int('total_items').notNull().default(0),
    rate: double('rate').notNull().default(0),
    leftLowMs: double('left_low_ms'),
    leftHighMs: double('left_high_ms'),
    needs: varchar('needs', { length: 300 }),
    /** What was expected of it before it started; null where nobody estimated. */
    estimate: jsonColumn<Estimate>('estimate'),
    startedBy: uuidColumn('started_by')
      .notNull()
      .references(() => technicians.id),
    startedAt: instantColumn('started_at').notNull(),
    endedAt: instantColumn('ended_at'),
    leaseOwner: uuidColumn('lease_owner'),
    leaseUntil: instantColumn('lease_until'),
    result: jsonColumn<Versioned>('result'),
    /** When the state that it is in must have been left; null where it may last. */
    deadline: instantColumn('deadline'),
    /** Items that failed and can be tried again by themselves. */
    retryable: int('retryable').notNull().default(0),
    problem: jsonColumn<Problem>('problem'),
  },
  (table) => [
    index('operations_state_ended').on(table.state, table.endedAt),
    index('operations_ticket_started').on(table.ticketId, table.startedAt),
    index('operations_device').on(table.deviceId, table.kind),
    index('operations_started').on(table.startedAt),
    index('operations_kind').on(table.kind, table.state, table.startedAt),
  ],
);

/** The moves of a plan that is carried out, in their order: how far each is. */
export const moveSteps = mysqlTable(
  'move_steps',
  {
    operationId: uuidColumn('operation_id')
      .notNull()
      .references(() => operations.id),
    step: int('step').notNull(),
    archiveId: uuidColumn('archive_id').$type<ArchiveId>().notNull(),
    fromRackId: uuidColumn('from_rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    toRackId: uuidColumn('to_rack_id')
      .$type<RackId>()
      .notNull()
      .references(() => racks.id),
    /** The archive's name there; null until it was decided. */
    toFolder: varchar('to_folder', { length: 255 }),
    bytes: byteColumn('bytes').notNull(),
    detour: boolean('detour').notNull(),
    state: varchar('state', { length: 10 }).$type<MoveState>().notNull(),
    /** Why it was left where it is. */
    why: varchar('why', { length: 400 }).notNull().default(''),
  },
  (table) => [primaryKey({ columns: [table.operationId, table.step] })],
);

/** What operations hold while they are not over: written in the transaction that starts one, gone in the one that ends it. */
export const operationLocks = mysqlTable(
  'operation_locks',
  {
    operationId: uuidColumn('operation_id')
      .notNull()
      .references(() => operations.id),
    resource: varchar('resource', { length: 90 }).$type<Lock['resource']>().notNull(),
    mode: varchar('mode', { length: 10 }).$type<Lock['mode']>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.resource, table.operationId] }),
    index('operation_locks_operation').on(table.operationId),
  ],
);

/** What changed, in the order in which it was written: from here every browser is told. Kept for a while only. */
export const outbox = mysqlTable(
  'outbox',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn('at').notNull(),
    subject: varchar('subject', { length: 20 }).$type<Change['subject']>().notNull(),
    /** Which one; empty for the list of them. */
    ref: varchar('ref', { length: 64 }).notNull(),
  },
  (table) => [index('outbox_at').on(table.at)],
);

/** Who did what. Rows are added and never changed: triggers refuse anything else, and each is sealed to all before it. */
export const audit = mysqlTable(
  'audit',
  {
    id: bigint('id', { mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn('at').notNull(),
    technicianId: uuidColumn('technician_id').references(() => technicians.id),
    ticketId: uuidColumn('ticket_id').references(() => tickets.id),
    action: varchar('action', { length: 40 }).notNull(),
    what: varchar('what', { length: 400 }).notNull(),
    /** SHA-256 over the digest of the entry before and what this one says (docs/audit.md). */
    digest: char('digest', { length: 64 }).notNull(),
  },
  (table) => [
    index('audit_ticket').on(table.ticketId),
    index('audit_at').on(table.at),
    index('audit_who').on(table.technicianId, table.at),
    index('audit_action').on(table.action, table.at),
  ],
);

/** What the shop lets people work as, beside what every shop does. */
export const roles = mysqlTable(
  'roles',
  {
    id: uuidColumn('id').primaryKey(),
    name: varchar('name', { length: 60 }).notNull(),
    permissions: jsonColumn<Permission[]>('permissions').notNull(),
  },
  (table) => [uniqueIndex('roles_name').on(table.name)],
);

/** What of the catalogue lies on each rack: the last save there that was read back, and what was wrong with the last try. */
export const rackSaves = mysqlTable('rack_saves', {
  rackId: uuidColumn('rack_id')
    .$type<RackId>()
    .primaryKey()
    .references(() => racks.id),
  /** When what is saved there was so; null where nothing is yet. */
  savedAt: instantColumn('saved_at'),
  name: varchar('name', { length: 100 }),
  bytes: bigint('bytes', { mode: 'number', unsigned: true }),
  triedAt: instantColumn('tried_at').notNull(),
  problem: varchar('problem', { length: 400 }),
});

/** What a device and a customer's own books held when they were last in step, sealed under the installation's key. */
export const syncStates = mysqlTable(
  'sync_states',
  {
    id: uuidColumn('id').primaryKey(),
    serial: varchar('serial', { length: 200 }).notNull(),
    /** Tells one server and who signs in there from all others, and nothing of it. */
    partner: char('partner', { length: 64 }).notNull(),
    kind: varchar('kind', { length: 20 }).notNull(),
    sealed: longtext('sealed').notNull(),
    updatedAt: instantColumn('updated_at').notNull(),
  },
  (table) => [uniqueIndex('sync_states_what').on(table.serial, table.partner, table.kind)],
);

/** How both sides were before they were last written, sealed; and what was written, so that it can be taken back. */
export const syncSnapshots = mysqlTable(
  'sync_snapshots',
  {
    id: uuidColumn('id').primaryKey(),
    serial: varchar('serial', { length: 200 }).notNull(),
    partner: char('partner', { length: 64 }).notNull(),
    sealed: longtext('sealed').notNull(),
    takenAt: instantColumn('taken_at').notNull(),
  },
  (table) => [uniqueIndex('sync_snapshots_what').on(table.serial, table.partner)],
);

/** Where the record ends: one row. Whoever adds to the record holds it meanwhile. */
export const auditHead = mysqlTable('audit_head', {
  id: int('id').primaryKey(),
  digest: char('digest', { length: 64 }).notNull(),
  entries: bigint('entries', { mode: 'number', unsigned: true }).notNull(),
});
