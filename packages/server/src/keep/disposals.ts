import type { Disposal } from '@bright-cellar/contract';
import { Failure, type ArchiveId, type CopyId, type RackId } from '@bright-cellar/core';
import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm';
import { nameOf } from '../database/columns.js';
import type { Database, Transaction } from '../database/connect.js';
import {
  archives,
  backups,
  copies,
  copyChanges,
  customers,
  devices,
  disposalCopies,
  disposals,
  racks,
  technicians,
  tickets,
} from '../database/schema.js';
import { recordGone } from '../archives/index.js';
import type { Unit } from '../kernel/unit-of-work.js';
import { forgetWhereNothingIsKept } from './forgetting.js';
import { readSettings } from '../settings/index.js';

const SHOWN = 200;

/** Disposals, the newest first. */
export async function listDisposals(db: Database): Promise<Disposal[]> {
  const rows = await db
    .select({ disposal: disposals, by: nameOf(technicians) })
    .from(disposals)
    .leftJoin(technicians, eq(technicians.id, disposals.decidedBy))
    .orderBy(desc(disposals.number))
    .limit(SHOWN);
  const ids = rows.map(({ disposal }) => disposal.id);
  const all = ids.length > 0 ? await copiesOf(db, ids) : [];
  return rows.map(({ disposal, by }) => {
    const own = all.filter(({ copy }) => copy.disposalId === disposal.id);
    return {
      ...{ id: disposal.id, number: disposal.number, archiveId: disposal.archiveId },
      ...{ ticketNumber: disposal.ticketNumber, deviceName: disposal.deviceName },
      ...{ customerName: disposal.customerName, reason: disposal.reason, decidedBy: by },
      decidedAt: disposal.decidedAt.toISOString(),
      doneAt: disposal.doneAt?.toISOString() ?? null,
      owedOn: own.flatMap(({ copy, rackName }) => (copy.goneAt ? [] : rackName)),
      copies: own.length,
    };
  });
}

const copiesOf = (db: Database | Transaction, disposalIds: readonly string[]) =>
  db
    .select({ copy: disposalCopies, rackName: racks.name })
    .from(disposalCopies)
    .innerJoin(racks, eq(racks.id, disposalCopies.rackId))
    .where(inArray(disposalCopies.disposalId, [...disposalIds]))
    .orderBy(asc(racks.name));

/** All that a certificate says. @throws Failure `not-found` */
export async function disposalInFull(db: Database, id: string) {
  const [row] = await db
    .select({ disposal: disposals, by: nameOf(technicians) })
    .from(disposals)
    .leftJoin(technicians, eq(technicians.id, disposals.decidedBy))
    .where(eq(disposals.id, id));
  if (!row) throw new Failure('not-found');
  return { ...row, copies: await copiesOf(db, [id]) };
}
export type DisposalInFull = Awaited<ReturnType<typeof disposalInFull>>;

/**
 * Decides a disposal: from now on the archive is nowhere to be found, its copies are owed their end, and a certificate has
 * a number.
 */
export async function recordDecision(
  unit: Unit,
  decided: { id: string; archiveId: ArchiveId; reason: string; by: string; operationId: string },
): Promise<void> {
  const { tx, now } = unit;
  const { id, archiveId, reason, by, operationId } = decided;
  const [base] = await tx
    .select({ device: devices, ticketNumber: tickets.number, customerName: customers.name })
    .from(archives)
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .where(eq(archives.id, archiveId));
  const taken = await tx
    .select({ takenAt: backups.takenAt })
    .from(backups)
    .where(and(eq(backups.archiveId, archiveId), isNull(backups.prunedIn)))
    .orderBy(asc(backups.takenAt));
  const [first] = taken;
  const last = taken.at(-1);
  if (!base || !first || !last) throw new Failure('not-found');
  const { device, ticketNumber, customerName } = base;
  await tx.insert(disposals).values({
    ...{ id, archiveId, reason, ticketNumber, customerName, decidedBy: by, decidedAt: now },
    ...{ deviceName: device.name, device: `${device.familyName} ${device.model}` },
    ...{ serial: device.serial, backups: taken.length },
    ...{ firstTakenAt: first.takenAt, lastTakenAt: last.takenAt },
  });
  const own = await tx.select().from(copies).where(eq(copies.archiveId, archiveId)).for('update');
  for (const { id: copyId, rackId, folder, storedBytes, digest } of own) {
    await tx
      .insert(disposalCopies)
      .values({ copyId, disposalId: id, rackId, folder, storedBytes, digest });
    await tx.delete(copyChanges).where(eq(copyChanges.copyId, copyId));
  }
  await tx.update(archives).set({ disposedAt: now }).where(eq(archives.id, archiveId));
  for (const copy of own) await recordGone(unit, copy, operationId);
  unit.changed('archive', archiveId);
  unit.changed('archive');
  unit.changed('ticket', ticketNumber);
}

/** A copy that is owed its end. */
export interface OwedEnd {
  copyId: CopyId;
  rackId: RackId;
  rackName: string;
  folder: string;
  storedBytes: number;
}

export async function owedOf(db: Database, disposalId: string): Promise<OwedEnd[]> {
  const all = await copiesOf(db, [disposalId]);
  return all
    .filter(({ copy }) => copy.goneAt === null)
    .map(({ copy, rackName }) => ({ ...copy, rackName }));
}

/** Disposals of which a copy lies on a rack that is here. */
export const owedHere = (db: Database) =>
  db
    .selectDistinct({ id: disposals.id, archiveId: disposals.archiveId, by: disposals.decidedBy })
    .from(disposals)
    .innerJoin(disposalCopies, eq(disposalCopies.disposalId, disposals.id))
    .innerJoin(racks, eq(racks.id, disposalCopies.rackId))
    .where(and(isNull(disposalCopies.goneAt), eq(racks.present, true), isNull(racks.retiredAt)))
    .limit(SHOWN);

/** One copy was seen to be gone; the disposal is done with the last. */
export async function recordEnd(
  unit: Unit,
  disposalId: string,
  copy: OwedEnd,
  wasThere: boolean,
): Promise<void> {
  const { tx, now } = unit;
  await tx
    .update(disposalCopies)
    .set({ goneAt: now, wasThere })
    .where(eq(disposalCopies.copyId, copy.copyId));
  const [owed] = await tx
    .select({ id: disposalCopies.copyId })
    .from(disposalCopies)
    .where(and(eq(disposalCopies.disposalId, disposalId), isNull(disposalCopies.goneAt)))
    .limit(1);
  unit.changed('rack', copy.rackId);
  unit.changed('archive');
  if (!owed) await finish(unit, disposalId);
}

async function finish(unit: Unit, id: string): Promise<void> {
  const { tx, now } = unit;
  await tx.update(disposals).set({ doneAt: now }).where(eq(disposals.id, id));
  const [disposal] = await tx
    .select({ number: disposals.number, archive: archives, customerId: tickets.customerId })
    .from(disposals)
    .innerJoin(archives, eq(archives.id, disposals.archiveId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(eq(disposals.id, id));
  if (!disposal) return;
  unit.note({
    ticketId: disposal.archive.ticketId,
    action: 'destroyed',
    what: `Every copy of the archive was destroyed, and seen to be gone. Certificate ${disposal.number}.`,
  });
  const { forgetsNames } = (await readSettings(tx)).disposal;
  if (forgetsNames) await forgetWhereNothingIsKept(unit, disposal.customerId);
}
