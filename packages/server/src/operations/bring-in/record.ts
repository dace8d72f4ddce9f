import { randomUUID } from 'node:crypto';
import type { VerifyReport } from '@bright-cellar/archive';
import {
  deviceIdSchema,
  Failure,
  OPEN_PASSWORD,
  unreadSerial,
  type BackupId,
  type DeviceId,
} from '@bright-cellar/core';
import { and, eq, inArray, lte } from 'drizzle-orm';
import type { Transaction } from '../../database/connect.js';
import { archives, backups, copies, devices, operations, tickets } from '../../database/schema.js';
import type { Job } from '../../engine/job.js';
import type { Unit } from '../../kernel/unit-of-work.js';
import { unlooked } from '../../archives/index.js';
import { takeUpTicket } from '../../tickets/index.js';
import { judgeProof } from '../prove/judge-proof.js';
import { recordLook } from '../prove/record-look.js';
import type { Gathered } from './gather.js';

interface Found {
  report: VerifyReport;
  /** Null where nobody had its password: then the catalogue knows it in this very state. */
  contents: Gathered | null;
  durationMs: number;
}

/** What will be in the catalogue, and what writes it there, all at once. @throws Failure `not-found`, `archive-damaged` */
export async function recordFound(job: Job<'bringIn'>, found: Found) {
  const { db, archiveId } = job;
  const { contents } = found;
  const [row] = await db
    .select({ number: tickets.number })
    .from(archives)
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(eq(archives.id, archiveId));
  const first = contents?.backups[0];
  if (!row && !first) {
    throw new Failure('archive-damaged', {
      what: 'The list of no backup in it can be read: whose archive it is, nobody can say.',
      safe: 'It lies where it was found, as it was.',
      next: 'Look for another copy of it.',
    });
  }
  const ticketNumber = row?.number ?? first?.header.ticket ?? '';
  return {
    isCopy: row !== undefined,
    ticketNumber,
    backups: contents?.backups.length ?? 0,
    record: (unit: Unit) => write(unit, job, found),
  };
}

type Header = Gathered['backups'][number]['header'];
const nameOf = ({ device, label }: Header) => device?.name ?? (label || 'A folder');

async function write(unit: Unit, job: Job<'bringIn'>, found: Found): Promise<void> {
  const { tx, now } = unit;
  const { input, archiveId, startedBy, operationId } = job;
  const { report, contents } = found;
  if (contents) await writeBackups(unit, job, contents, report);
  await belongsTo(tx, job);
  const place = { rackId: input.rackId, folder: input.folder };
  const known = await tx.select().from(copies).where(eq(copies.archiveId, archiveId));
  const same = known.find(({ digest }) => digest === report.manifestDigest);
  const state = {
    ...place,
    generation: contents?.generation ?? same?.generation ?? 0,
    digest: report.manifestDigest,
    storedBytes: report.storedBytes,
    ...unlooked,
  };
  const copyId = input.renamed ?? input.copyId;
  if (input.renamed) await tx.update(copies).set(state).where(eq(copies.id, copyId));
  else await tx.insert(copies).values({ ...state, id: copyId, archiveId, createdAt: now });
  const [before] = await tx.select().from(copies).where(eq(copies.id, copyId));
  const there = await tx
    .select()
    .from(backups)
    .where(and(eq(backups.archiveId, archiveId), lte(backups.generation, state.generation)));
  if (!before) throw new Error('a copy was just written and is not there');
  await recordLook(
    unit,
    { operationId, startedBy, input: { copyId } },
    { report, before, judged: judgeProof(report, before, there), durationMs: found.durationMs },
  );
  unit.changed('archive', archiveId);
  unit.changed('archive');
  unit.changed('rack', input.rackId);
}

/** Whose it was is known now: the name of its folder, which may say so, goes with their names. */
async function belongsTo(tx: Transaction, { archiveId, operationId }: Job<'bringIn'>) {
  const [known] = await tx
    .select({ ticketId: archives.ticketId })
    .from(archives)
    .where(eq(archives.id, archiveId));
  await tx
    .update(operations)
    .set({ ticketId: known?.ticketId ?? null })
    .where(eq(operations.id, operationId));
}

/** What of an archive the catalogue does not have yet: itself, its device, its visits, its backups. */
async function writeBackups(
  unit: Unit,
  job: Job<'bringIn'>,
  { backups: all, generation }: Gathered,
  report: VerifyReport,
): Promise<void> {
  const { tx, now } = unit;
  const { archiveId, startedBy, operationId } = job;
  const ids = all.map(({ id }) => id);
  const have =
    ids.length === 0 ? [] : await tx.select().from(backups).where(inArray(backups.id, ids));
  const missing = all.filter(({ id }) => !have.some((row) => row.id === id));
  const [first] = all;
  const newest = all.at(-1);
  if (!first || !newest || missing.length === 0) return;
  const [known] = await tx.select().from(archives).where(eq(archives.id, archiveId));
  const deviceId = known?.deviceId ?? (await deviceOf(tx, newest.header, now));
  const visits = new Map<string, string>();
  for (const { header } of missing) {
    if (visits.has(header.ticket)) continue;
    visits.set(header.ticket, await takeUpTicket(unit, { header, deviceId, by: startedBy }));
  }
  if (!known) {
    await tx.insert(archives).values({
      ...{ id: archiveId, deviceId, reminder: '', createdAt: new Date(first.header.takenAt) },
      ticketId: visits.get(first.header.ticket) ?? '',
      passwordHolder: newest.header.sheet?.passwordHolder ?? 'customer',
      encrypted: job.password.use() !== OPEN_PASSWORD,
      // Whose escrow it is, nobody knows any more.
      escrow: false,
    });
  }
  await tx.insert(backups).values(
    missing.map(({ id, header, end, classes, failed }) => ({
      ...{ id, archiveId, generation, operationId, takenBy: startedBy, classes, failed },
      ticketId: visits.get(header.ticket) ?? null,
      takenAt: new Date(header.takenAt),
      osVersion: header.device?.osVersion ?? '',
      contentRevision: '',
      ...{ items: end.items, bytes: end.bytes, storedBytes: end.storedBytes },
      ...{ newItems: end.newItems, newBytes: end.newBytes, durationMs: 0 },
      digest: report.manifestDigest,
      listDigest: listDigestOf(report, id),
      scope: header.sheet?.scope ?? { mode: 'everything', encrypted: true, everything: false },
      coverage: header.sheet?.coverage ?? [],
    })),
  );
}

const listDigestOf = (report: VerifyReport, id: BackupId) =>
  report.contents?.backups.find(({ backup }) => backup === id)?.listDigest ?? '';

/** The device that a backup is of, by its serial. */
async function deviceOf(tx: Transaction, header: Header, now: Date): Promise<DeviceId> {
  const serial = header.device?.serial ?? '';
  const [known] =
    serial === '' ? [] : await tx.select().from(devices).where(eq(devices.serial, serial));
  if (known) return known.id;
  const id = deviceIdSchema.parse(randomUUID());
  const { family, familyName, kind, model, osName, osVersion } = header.device ?? {
    ...{ family: 'folder', familyName: 'Folder', kind: 'phone', model: '' },
    ...{ osName: '', osVersion: '' },
  };
  await tx.insert(devices).values({
    ...{ id, serial: serial || unreadSerial(id.slice(0, 8)), name: nameOf(header).slice(0, 120) },
    ...{ family, familyName, kind, model, osName, osVersion, imei: null, capacity: 0 },
    ...{ readFrom: 'typed', seenAt: now },
  });
  return id;
}
