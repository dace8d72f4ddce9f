import { createHash, randomUUID } from 'node:crypto';
import {
  ArchiveFiles,
  BackupRun,
  OpenArchive,
  recordProof,
  verifyOpen,
  withPassword,
} from '@bright-cellar/archive';
import {
  deviceIdSchema,
  type ClassAmount,
  type DataClass,
  type VisitReason,
  archiveIdSchema,
  backupIdSchema,
  type RackId,
} from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { searchText } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import {
  agreements,
  audit,
  copies,
  customers,
  devices,
  proofs,
  racks,
  tickets,
} from '../database/schema.js';
import { storeOf } from '../racks/index.js';
import { recordArchive, recordBackup } from '../archives/index.js';

/** The password of every archive of the demo's past. */
const PAST_PASSWORD = 'copper kettle orchard nine';

interface PastVisit {
  customer: string;
  phone: string;
  device: { model: string; name: string; kind: 'phone' | 'tablet'; serial: string; os: string };
  reason: VisitReason;
  takenAt: string;
  /** Megabytes by class. */
  holds: Partial<Record<DataClass, number>>;
  proven: boolean;
  closed: boolean;
  notes: string;
}

const visits: PastVisit[] = [
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

/** Earlier visits with archives that are really there: written, and proved, by the same engine as any other. */
export async function loadPast(
  db: Database,
  technicianId: string,
  rackIds: readonly RackId[],
): Promise<void> {
  for (const [i, visit] of visits.entries()) {
    const rackId = rackIds[i % rackIds.length];
    if (rackId) await loadVisit(db, technicianId, rackId, visit, i + 1);
  }
}

async function loadVisit(
  db: Database,
  technicianId: string,
  rackId: RackId,
  visit: PastVisit,
  count: number,
): Promise<void> {
  const [rack] = await db.select().from(racks).where(eq(racks.id, rackId));
  if (!rack) throw new Error('no rack to load the past onto');
  const takenAt = new Date(visit.takenAt);
  const openedAt = new Date(takenAt.getTime() - 900_000);
  const number = `${visit.takenAt.slice(2, 7).replace('-', '')}${String(count).padStart(4, '0')}`;
  const ids = {
    customer: randomUUID(),
    device: deviceIdSchema.parse(randomUUID()),
    ticket: randomUUID(),
    archive: archiveIdSchema.parse(randomUUID()),
    backup: backupIdSchema.parse(randomUUID()),
  };
  const email = `${visit.customer.toLowerCase().replace(' ', '.')}@example.org`;
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
    { ...said, kind: 'keep', given: true, days: 90 },
  ]);

  const when = visit.takenAt.slice(0, 16).replace('T', '-').replace(':', '');
  const model = device.model.toLowerCase().replace(' ', '-');
  const name = `${number}_${when}_vireo-${model}_${device.serial.slice(-4)}`;
  const files = new ArchiveFiles(storeOf(rack), name);
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
  });
  const classes: ClassAmount[] = [];
  for (const [dataClass, megabytes] of Object.entries(visit.holds) as [DataClass, number][]) {
    classes.push(await addRecords(run, dataClass, megabytes, device.serial));
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
  await recordArchive(db, committed, archive, { rackId, folder: name });
  await recordBackup(db, committed, {
    ticketId: ids.ticket,
    operationId: randomUUID(),
    takenBy: technicianId,
    osVersion: device.os,
    contentRevision: 'past',
    durationMs,
    classes,
    failed: [],
    scope: { mode: 'everything', encrypted: true, everything: true },
    coverage: [],
  });
  await db.insert(audit).values([
    {
      at: openedAt,
      technicianId,
      ticketId: ids.ticket,
      action: 'ticket-opened',
      what: 'Ticket opened; backup agreed, kept 90 days.',
    },
    {
      at: takenAt,
      technicianId,
      ticketId: ids.ticket,
      action: 'operation-ended',
      what: `Backup taken: ${committed.items} items, 0 failed.`,
    },
  ]);
  if (!visit.proven) return;
  const provenAt = new Date(takenAt.getTime() + 600_000);
  const opened = await OpenArchive.open(files, withPassword(PAST_PASSWORD));
  const report = await verifyOpen(opened, { level: 'full' });
  await opened.close();
  await recordProof(files, report, provenAt);
  await db
    .update(copies)
    .set({ state: 'whole', checkedAt: provenAt, checkedLevel: 'full' })
    .where(eq(copies.archiveId, ids.archive));
  const [copy] = await db.select().from(copies).where(eq(copies.archiveId, ids.archive));
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

/** Plain records of a made-up device, the same each time: about 40 kB each. */
async function addRecords(
  run: BackupRun,
  dataClass: DataClass,
  megabytes: number,
  serial: string,
): Promise<ClassAmount> {
  const items = megabytes * 25;
  let bytes = 0;
  for (let n = 1; n <= items; n++) {
    const seed = createHash('sha512').update(`${serial} ${dataClass} ${n}`).digest('hex');
    const text = `${JSON.stringify({ n, of: dataClass })}\n${`${seed}\n`.repeat(310)}`;
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
