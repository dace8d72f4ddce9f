import {
  archiveLock,
  crossingReadiness,
  deviceLock,
  Failure,
  goesOver,
  losesSomething,
  roomFor,
  type BackupId,
  type LinkDeviceId,
  type OperationInput,
} from '@bright-cellar/core';
import type { ClassExamples } from '@bright-cellar/contract';
import { agreedOf } from '../../agreements/index.js';
import { backupForWork, mustOpen, presentCopy } from '../../archives/index.js';
import { and, eq, isNull } from 'drizzle-orm';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { lookIns } from '../../database/schema.js';
import { operationRow, startOperation } from '../../engine/index.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import type { Context } from '../../shop.js';
import type { Start } from '../start.js';
import { examplesOrder } from './orders.js';

/** A loss report is of what the device held: a day later it may hold something else. */
const FORESEEN_AT_MOST_MS = 24 * 3_600_000;

/** Both ends of a crossing, each as it is now. @throws Failure where the device does not take such a thing */
async function endsOf(context: Context, backupId: BackupId, deviceId: LinkDeviceId) {
  const from = await backupForWork(context.db, backupId);
  const facts = await context.bench.freshFacts(deviceId);
  await mustBeFree(context.db, facts.serial);
  mustBeReady(crossingReadiness(facts));
  return { ...from, facts };
}

export const startForesee: Start<'foresee'> = async (context, { id: backupId }, body) => {
  const { deviceId, choice, days, without, lookIn } = body;
  const { archive, device, ticket, facts } = await endsOf(context, backupId, deviceId);
  if (lookIn !== null) await mustBeOwnLookIn(context, lookIn, backupId);
  return context.desks.use(device.id, body, 'restore', 'forget', async ({ password }) => {
    const copy = await presentCopy(context.db, archive.id);
    await mustOpen(context, copy, password, ticket.id);
    const { serial, family, familyName, model } = facts;
    return startOperation(
      context,
      {
        kind: 'foresee',
        locks: [deviceLock(serial), archiveLock(archive.id, 'shared')],
        ...{ ticketId: ticket.id, ticketNumber: ticket.number, archiveId: archive.id, backupId },
        deviceId: facts.id,
        deviceName: `${familyName} ${model} ${serial}`,
        what: `Loss report asked for${lookIn === null ? '' : ' of what was in hand in a look-in'}, onto ${familyName} ${model} ${serial}.`,
        input: {
          ...{ copyId: copy.id, serial, family, sourceFamily: device.family },
          ...{ choice: lookIn === null ? choice : {}, days, without, lookIn },
          zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
        },
      },
      { password },
    );
  });
};

export const startCross: Start<'cross'> = async (context, { id: backupId }, body) => {
  const { deviceId, serialTail, foreseen: foreseenId } = body;
  const { archive, device, ticket, facts } = await endsOf(context, backupId, deviceId);
  const { input, result } = await foreseenOf(context, foreseenId, backupId, facts.serial);
  const { report } = result;
  if (losesSomething(report) && !body.customerKnows) {
    throw new Failure('not-agreed', {
      what: 'Not all of it arrives as it was, and nobody said that the customer knows.',
      next: 'Go through the loss report with the customer, and say so.',
    });
  }
  if (!report.some((one) => goesOver(one) > 0)) {
    throw new Failure('not-found', {
      what: 'Nothing of what was chosen would go over.',
      next: 'Choose something else, or another device.',
    });
  }
  mustBeReady([
    roomFor(
      facts,
      report.reduce((sum, { bytes }) => sum + bytes, 0),
    ),
  ]);
  return context.desks.use(device.id, body, 'restore', 'forget', async ({ password }) => {
    if (!facts.serial.toUpperCase().endsWith(serialTail.toUpperCase())) {
      throw new Failure('wrong-serial');
    }
    const copy = await presentCopy(context.db, archive.id);
    await mustOpen(context, copy, password, ticket.id);
    const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
    return startOperation(
      context,
      {
        kind: 'cross',
        locks: [deviceLock(facts.serial), archiveLock(archive.id, 'shared')],
        ...{ ticketId: ticket.id, ticketNumber: ticket.number, archiveId: archive.id, backupId },
        deviceId: facts.id,
        deviceName: target,
        what: `Crossing ${input.lookIn === null ? '' : 'of what was in hand in a look-in '}started onto ${target}${losesSomething(report) ? '; the customer knows what does not arrive as it was' : ''}.`,
        input: {
          ...{ ...input, copyId: copy.id, family: facts.family },
          ...{ foreseen: report, foresaw: foreseenId },
          expected: { items: result.items, bytes: result.bytes },
          adds: facts.capabilities.takes?.adds === true,
        },
      },
      { password },
    );
  });
};

/** Single items of a loss report. Each look at them is on record. @throws Failure `not-found`, `not-agreed` */
export async function crossingExamples(context: Context, id: string): Promise<ClassExamples[]> {
  const row = await operationRow(context.db, id);
  if (row.kind !== 'foresee' || row.ticketId === null) throw new Failure('not-found');
  if (!(await agreedOf(context.db, row.ticketId)).lookIn) {
    throw new Failure('not-agreed', {
      what: 'The customer has not agreed that the shop looks inside.',
    });
  }
  const examples = await context.orders.ask(examplesOrder, { id });
  const count = examples.reduce((sum, one) => sum + one.examples.length, 0);
  await noteOnly(context, {
    action: 'crossing-looked-at',
    what: `${count} single items of a loss report were looked at.`,
    ticketId: row.ticketId,
  });
  return examples;
}

/** What is in hand is its reader's own, and of this backup. @throws Failure `look-in-over` */
async function mustBeOwnLookIn({ db, actor }: Context, id: string, backupId: BackupId) {
  const own = and(eq(lookIns.id, id), eq(lookIns.backupId, backupId), isNull(lookIns.endedAt));
  const [row] = await db.select({ by: lookIns.technicianId }).from(lookIns).where(own);
  if (row === undefined || row.by !== actor.technicianId) throw new Failure('look-in-over');
}

/** @throws Failure `not-found` where it is no loss report of these, or an old one */
async function foreseenOf({ db, clock }: Context, id: string, backupId: BackupId, serial: string) {
  const row = await operationRow(db, id);
  const isOfThese =
    row.kind === 'foresee' &&
    row.backupId === backupId &&
    row.input.serial === serial &&
    row.endedAt !== null &&
    clock.now().getTime() - row.endedAt.getTime() < FORESEEN_AT_MOST_MS;
  if (!isOfThese || row.result === null) {
    throw new Failure('not-found', {
      what: 'There is no loss report of this backup and this device that is of today.',
      next: 'Ask for the loss report again.',
    });
  }
  const input: OperationInput<'foresee'> = row.input;
  return { input, result: row.result };
}
