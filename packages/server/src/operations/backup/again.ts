import {
  archiveLock,
  backupReadiness,
  deviceLock,
  Failure,
  formatBytes,
  type OperationInput,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { discardOrder, mustOpen } from '../../archives/index.js';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import type { Database } from '../../database/connect.js';
import { continueOperation, operationRow, tellOf, type RowOf } from '../../engine/index.js';
import { unitOfWork } from '../../kernel/unit-of-work.js';
import type { Context } from '../../shop.js';
import type { CutShort, Typed } from '../cut-short.js';
import { keptOfBackup } from './kept.js';
import { acceptable, beginBackup } from './start.js';

/** @throws Failure `not-found` where it is no backup's */
async function backupRow(db: Database, id: string): Promise<RowOf<'backup'>> {
  const row = await operationRow(db, id);
  if (row.kind !== 'backup') {
    throw new Failure('not-found', { what: 'Nothing of that work is left to go on from.' });
  }
  return row;
}

/** What is left of a backup that ended badly. @throws Failure `not-found` when there is nothing to go on from. */
async function leftOf(db: Database, row: RowOf<'backup'>): Promise<number> {
  const storedBytes = await keptOfBackup(db, row);
  if (storedBytes === null) {
    throw new Failure('not-found', { what: 'Nothing of that backup is left to go on from.' });
  }
  return storedBytes;
}

async function goOn(context: Context, row: RowOf<'backup'>, typed: Typed): Promise<Operation> {
  const { db, bench } = context;
  const { id, input } = row;
  await leftOf(db, row);
  return context.desks.use(input.knownDeviceId, typed, 'continue', 'hold', async ({ password }) => {
    const serial = input.device.serial;
    const facts = input.recovered === undefined ? await bench.presentDevice(serial) : null;
    if (facts) {
      await mustBeFree(db, serial);
      mustBeReady(backupReadiness(facts), acceptable(facts));
    }
    await mustOpen(context, input, password, input.ticketId);
    return continueOperation<'backup'>(
      context,
      id,
      {
        locks: [deviceLock(serial), archiveLock(input.archive, 'update')],
        deviceId: facts?.id ?? null,
        // Whoever sent it further meanwhile was cut off with it.
        input: { ...input, continued: true, followed: false },
        action: 'backup-continued',
        what: 'Backup goes on from what is on the rack.',
      },
      { password },
    );
  });
}

/**
 * Tries the items that failed again: a further backup of the same scope into the same archive, in which
 * only they, and what changed since, are read.
 */
export async function retryFailed(context: Context, id: string, typed: Typed): Promise<Operation> {
  const { input, retryable } = await backupRow(context.db, id);
  if (retryable === 0) {
    throw new Failure('not-found', { what: 'No item of that work failed.' });
  }
  const onBench = context.bench.bySerial(input.device.serial);
  return context.desks.use(input.knownDeviceId, typed, 'further', 'hold', ({ password }) =>
    beginBackup(context, input.ticket, {
      ...sameScope(input),
      accepted: onBench ? acceptable(onBench) : [],
      rackId: null,
      archiveId: input.archive,
      fromDesk: false,
      password,
      passwordHolder: 'customer',
      reminder: '',
    }),
  );
}

const sameScope = ({ scope: { mode, encrypted }, choice }: OperationInput<'backup'>) => ({
  mode,
  encrypted,
  choice,
});

async function giveUp(context: Context, row: RowOf<'backup'>): Promise<void> {
  const { id, input } = row;
  const storedBytes = await leftOf(context.db, row);
  const { rackId, folder, backup } = input;
  await context.orders.ask(discardOrder, { rackId, folder, backup });
  await unitOfWork(context, async (unit) => {
    unit.note({
      ticketId: input.ticketId,
      action: 'backup-discarded',
      what: `The backup that was cut off was given up; ${formatBytes(storedBytes)} are free again.`,
    });
    unit.changed('rack', rackId);
    await tellOf(unit, id);
  });
}

/** A backup that was cut off goes on from what is on the rack, or is given up. */
export const cutBackup: CutShort<'backup'> = { kept: keptOfBackup, goOn, giveUp };
