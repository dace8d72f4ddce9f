import { createHash, randomUUID } from 'node:crypto';
import {
  ArchiveFiles,
  BackupRun,
  copyArchive,
  OpenArchive,
  recordProof,
  verifyOpen,
  withPassword,
  type Store,
} from '@bright-cellar/archive';
import {
  deviceIdSchema,
  type ClassAmount,
  type DataClass,
  archiveIdSchema,
  backupIdSchema,
  copyIdSchema,
  type ArchiveId,
  type RackId,
} from '@bright-cellar/core';
import { and, eq } from 'drizzle-orm';
import { searchText } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import { agreements, copies, customers, devices, proofs, tickets } from '../database/schema.js';
import { recordArchive, recordBackup } from '../archives/index.js';
import { append } from '../kernel/audit.js';
import { yearBefore, type PastVisit } from './year.js';

/** The password of every archive of the demo's past. */
const PAST_PASSWORD = 'copper kettle orchard nine';

/** Files of 40 kB make a megabyte. */
const FILES_IN_MB = 25;

const visits: Omit<PastVisit, 'keepDays'>[] = [
  {
    customer: 'Edda Mossfield',
    phone: '+44 7700 900412',
    device: {
      model: 'Slate 11',
      name: 'Edda’s tablet',
      kind: 'tablet',
      serial: 'VS1K0931R06',
      os: '17.1',
    },
    reason: 'safety-copy',
    takenAt: '2026-04-17T10:12:00.000Z',
    holds: { contacts: 1, messages: 3, documents: 9, notes: 2, applications: 14 },
    proven: true,
    closed: true,
    notes: 'Grey tablet, corner chipped before it came in.',
  },
  {
    customer: 'Piet Haverlock',
    phone: '+44 7700 900127',
    device: {
      model: 'Arc 6',
      name: 'Piet’s phone',
      kind: 'phone',
      serial: 'VA6J5518M42',
      os: '16.4',
    },
    reason: 'replacement',
    takenAt: '2026-09-02T15:40:00.000Z',
    holds: { contacts: 1, calendar: 1, messages: 6, 'voice-notes': 8, documents: 4 },
    proven: true,
    closed: true,
    notes: 'Old phone goes back with the customer.',
  },
  {
    customer: 'Runa Saltcombe',
    phone: '+44 7700 900655',
    device: { model: 'Arc 7', name: 'Runa work', kind: 'phone', serial: 'VA7K4410D93', os: '17.2' },
    reason: 'repair',
    takenAt: '2026-11-19T09:25:00.000Z',
    holds: { contacts: 1, messages: 4, notes: 1, health: 2, applications: 11 },
    proven: true,
    closed: false,
    notes: 'Screen replaced, waits for a charging port. Hands back on Friday.',
  },
  {
    customer: 'Linus Thistleholt',
    phone: '+44 7700 900803',
    device: { model: 'Arc 5', name: 'Linus', kind: 'phone', serial: 'VA5H7720K18', os: '16.1' },
    reason: 'repair',
    takenAt: '2026-11-23T16:05:00.000Z',
    holds: { contacts: 1, messages: 2, documents: 3, settings: 1, applications: 7 },
    proven: false,
    closed: false,
    notes: 'Battery swollen. Prove the backup before the back comes off.',
  },
];

/** Where archives of the past lie. */
export interface PastRack {
  id: RackId;
  /** Where it is while it is loaded: a drive that is away lies in a drawer. */
  store: Store;
}

/**
 * Earlier visits with archives that are really there: written, and proved, by the same engine as any other. The newest lie on
 * the racks that are here, the others by age on drives that are away.
 */
export async function loadPast(
  db: Database,
  technicianId: string,
  { here, away }: { here: readonly PastRack[]; away: readonly PastRack[] },
  now: Date,
): Promise<void> {
  const known = visits.map((visit) => ({ ...visit, keepDays: 90, holds: filesOf(visit.holds) }));
  const year = yearBefore(new Date(now.getTime() - NEWEST_MS), YEAR_COUNT);
  const recent = [...known, ...year.slice(0, HERE_COUNT)];
  const numbers = numbersOf([...known, ...year]);
  const aside = Math.ceil((year.length - HERE_COUNT) / away.length);
  const places = [
    ...recent.map((visit, n) => ({ visit, rack: here[n % here.length] })),
    ...year.slice(HERE_COUNT).map((visit, n) => ({ visit, rack: away[Math.floor(n / aside)] })),
  ];
  for (const [n, { visit, rack }] of places.entries()) {
    if (!rack) continue;
    const other = n % 3 === 0 ? here[(n + 1) % here.length] : undefined;
    const second = n < recent.length ? other : undefined;
    await loadVisit(db, technicianId, { rack, second, visit, number: numbers.get(visit) ?? '' });
  }
}

const NEWEST_MS = 6 * 86_400_000;
const YEAR_COUNT = 230;
const HERE_COUNT = 26;

const filesOf = (megabytes: PastVisit['holds']) =>
  Object.fromEntries(
    Object.entries(megabytes).map(([dataClass, count]) => [dataClass, count * FILES_IN_MB]),
  );

/** Tickets are numbered by month, in their order. */
function numbersOf(all: readonly PastVisit[]): Map<PastVisit, string> {
  const counts = new Map<string, number>();
  const inOrder = [...all].sort((a, b) => (a.takenAt < b.takenAt ? -1 : 1));
  return new Map(
    inOrder.map((visit) => {
      const month = visit.takenAt.slice(2, 7).replace('-', '');
      const count = (counts.get(month) ?? 0) + 1;
      counts.set(month, count);
      return [visit, month + String(count).padStart(4, '0')];
    }),
  );
}

async function loadVisit(
  db: Database,
  technicianId: string,
  {
    rack,
    second,
    visit,
    number,
  }: { rack: PastRack; second: PastRack | undefined; visit: PastVisit; number: string },
): Promise<void> {
  const takenAt = new Date(visit.takenAt);
  const openedAt = new Date(takenAt.getTime() - 900_000);
  const ids = {
    customer: randomUUID(),
    device: deviceIdSchema.parse(randomUUID()),
    ticket: randomUUID(),
    archive: archiveIdSchema.parse(randomUUID()),
    backup: backupIdSchema.parse(randomUUID()),
  };
  const email = `${visit.customer.toLowerCase().replace(' ', '.')}@example.org`;
  const { keepDays } = visit;
  await db.insert(customers).values({
    id: ids.customer,
    name: visit.customer,
    phone: visit.phone,
    email,
    search: searchText(visit.customer, visit.phone, email),
    createdAt: openedAt,
  });
  const { device } = visit;
  const described = {
    family: 'vireo',
    familyName: 'Vireo',
    kind: device.kind,
    model: device.model,
    name: device.name,
    serial: device.serial,
    osName: 'Vireo OS',
    osVersion: device.os,
  };
  await db.insert(devices).values({
    id: ids.device,
    ...described,
    imei: null,
    capacity: 128_000_000_000,
    seenAt: takenAt,
  });
  await db.insert(tickets).values({
    id: ids.ticket,
    number,
    customerId: ids.customer,
    deviceId: ids.device,
    reason: visit.reason,
    promisedAt: null,
    notes: visit.notes,
    openedBy: technicianId,
    openedAt,
    closedAt: visit.closed ? new Date(takenAt.getTime() + 86_400_000) : null,
  });
  const said = { ticketId: ids.ticket, by: technicianId, at: openedAt };
  await db.insert(agreements).values([
    { ...said, kind: 'backup', given: true, days: null },
    { ...said, kind: 'keep', given: true, days: keepDays },
  ]);

  const when = visit.takenAt.slice(0, 16).replace('T', '-').replace(':', '');
  const model = device.model.toLowerCase().replace(' ', '-');
  const name = `${number}_${when}_vireo-${model}_${device.serial.slice(-4)}`;
  const files = new ArchiveFiles(rack.store, name);
  const began = Date.now();
  const run = await BackupRun.begin({
    files,
    secret: withPassword(PAST_PASSWORD),
    archive: ids.archive,
    backup: ids.backup,
    label: '',
    ticket: number,
    device: described,
    takenAt,
    threads: 0,
    sheet: {
      customer: { name: visit.customer, phone: visit.phone, email },
      reason: visit.reason,
      openedAt: openedAt.toISOString(),
      notes: visit.notes,
      agreed: { backup: true, lookIn: false, escrow: false, keepDays },
      passwordHolder: 'customer',
      scope: everything,
      coverage: [],
    },
  });
  const classes: ClassAmount[] = [];
  for (const [dataClass, files_] of Object.entries(visit.holds) as [DataClass, number][]) {
    classes.push(await addRecords(run, dataClass, files_, device.serial));
  }
  const committed = await run.commit();
  const durationMs = Date.now() - began;

  const archive = {
    ticketId: ids.ticket,
    deviceId: ids.device,
    passwordHolder: 'customer',
    reminder: 'Four words, one is a fruit garden',
    createdAt: takenAt,
  };
  await recordArchive(db, committed, archive, { rackId: rack.id, folder: name });
  await recordBackup(db, committed, {
    ticketId: ids.ticket,
    operationId: randomUUID(),
    takenBy: technicianId,
    osVersion: device.os,
    contentRevision: 'past',
    durationMs,
    classes,
    failed: [],
    scope: everything,
    coverage: [],
  });
  await db.transaction((tx) =>
    append(tx, [
      {
        at: openedAt,
        technicianId,
        ticketId: ids.ticket,
        action: 'ticket-opened',
        what: `Ticket opened; backup agreed, kept ${keepDays} days.`,
      },
      {
        at: takenAt,
        technicianId,
        ticketId: ids.ticket,
        action: 'operation-ended',
        what: `Backup taken: ${committed.items} items, 0 failed.`,
      },
    ]),
  );
  if (second) await addCopy(db, files, { archiveId: ids.archive, name, rack: second, at: takenAt });
  if (!visit.proven) return;
  const provenAt = new Date(takenAt.getTime() + 600_000);
  const opened = await OpenArchive.open(files, withPassword(PAST_PASSWORD), { threads: 0 });
  const report = await verifyOpen(opened, { level: 'full', threads: 0 });
  await opened.close();
  await recordProof(files, report, provenAt);
  await db
    .update(copies)
    .set({ state: 'whole', checkedAt: provenAt, checkedLevel: 'full' })
    .where(and(eq(copies.archiveId, ids.archive), eq(copies.rackId, rack.id)));
  const [copy] = await db
    .select()
    .from(copies)
    .where(and(eq(copies.archiveId, ids.archive), eq(copies.rackId, rack.id)));
  if (!copy) throw new Error('an archive without a copy');
  await db.insert(proofs).values({
    id: randomUUID(),
    backupId: ids.backup,
    copyId: copy.id,
    generation: committed.generation,
    operationId: randomUUID(),
    at: provenAt,
    by: technicianId,
    level: 'full',
    outcome: 'whole',
    items: committed.items,
    bytes: committed.bytes,
    storedBytes: report.storedBytes,
    what: 'Opened with its password, every byte checked, every item read back and compared.',
  });
}

/** Another copy of an archive, read back from where it lies. */
async function addCopy(
  db: Database,
  from: ArchiveFiles,
  { archiveId, name, rack, at }: { archiveId: ArchiveId; name: string; rack: PastRack; at: Date },
): Promise<void> {
  const to = new ArchiveFiles(rack.store, name);
  const { generation, manifestDigest: digest, payloadBytes } = await copyArchive({ from, to });
  await db.insert(copies).values({
    ...{ id: copyIdSchema.parse(randomUUID()), archiveId, rackId: rack.id, folder: name },
    ...{ storedBytes: payloadBytes, generation, digest, state: 'whole' },
    ...{ checkedAt: at, checkedLevel: 'bytes', createdAt: at },
  });
}

const everything = { mode: 'everything', encrypted: true, everything: true } as const;

/** Plain records of a made-up device, the same each time: about 40 kB each. */
async function addRecords(
  run: BackupRun,
  dataClass: DataClass,
  items: number,
  serial: string,
): Promise<ClassAmount> {
  let bytes = 0;
  for (let n = 1; n <= items; n++) {
    // What does not shrink, as photographs and sounds do not.
    const noise = createHash('shake256', { outputLength: 30_000 });
    const text = noise.update(`${serial} ${dataClass} ${n}`).digest('base64');
    await run.addContents(
      {
        class: dataClass,
        kind: 'file',
        path: `${dataClass}/${String(n).padStart(5, '0')}.txt`,
        bytes: text.length,
        modified: '2026-03-01T12:00:00.000Z',
        mode: 0o644,
        mark: '1',
      },
      () => [Buffer.from(text)],
    );
    bytes += text.length;
  }
  return { class: dataClass, items, bytes };
}
