import { randomUUID } from 'node:crypto';
import {
  archiveLock,
  backupReadiness,
  choiceOf,
  coverageOf,
  deviceLock,
  Failure,
  formatBytes,
  holdsEverything,
  OPEN_PASSWORD,
  type BackupScope,
  type Choice,
  type CoverageLine,
  type DeviceFacts,
  type NewBackup,
  backupIdSchema,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { agreedOf } from '../../agreements/index.js';
import { archiveName } from '../../archives/index.js';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { escrowRecipient } from '../../escrow/index.js';
import { keepPlan, type Planning } from '../../plans/index.js';
import { rackWithRoom } from '../../racks/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import type { Start } from '../start.js';
import { knownPlace, newPlace, STORED_OVERHEAD } from './places.js';
import { mustBeStrong } from '../../kernel/strong-password.js';

/** Starts it, and remembers its plan for next time. */
export const startBackup: Start<'backup'> = async (context, { number }, body) => {
  const { device } = await ticketForWork(context.db, number);
  const action = body.archiveId === null ? 'backup' : 'further';
  const operation = await context.desks.use(device.id, body, action, 'hold', (wanted) =>
    beginBackup(context, number, wanted),
  );
  await keepPlan(context, number, body, '');
  return operation;
};

/** What a backup will take, and what it will not, as it was judged before it started. */
async function scopeOf(
  planning: Planning,
  facts: DeviceFacts,
  wanted: Pick<NewBackup, 'mode' | 'choice' | 'encrypted'>,
): Promise<{
  scope: BackupScope;
  choice: Choice;
  coverage: CoverageLine[];
  expected: { items: number; bytes: number };
}> {
  const choice = choiceOf(wanted.mode, wanted.choice);
  const { classes, groups } = await planning.chosen(facts, choice, wanted.encrypted);
  const expected = {
    items: classes.reduce((sum, c) => sum + c.items, 0),
    bytes: classes.reduce((sum, c) => sum + c.bytes, 0),
  };
  if (expected.items === 0) throw new Failure('nothing-chosen');
  const planned = { choice, encrypted: wanted.encrypted };
  return {
    scope: {
      mode: wanted.mode,
      encrypted: wanted.encrypted,
      everything: holdsEverything(facts, planned),
    },
    choice,
    coverage: coverageOf(facts, planned, classes, groups),
    expected,
  };
}

/**
 * Judges whether a backup may start, decides where it goes, and starts it.
 * @param followed it is sent onto another device meanwhile
 */
export async function beginBackup(
  context: Context,
  number: string,
  wanted: NewBackup,
  followed = false,
): Promise<Operation> {
  const { db, bench, planning } = context;
  const { ticket, device, customer } = await ticketForWork(db, number);
  const agreed = await agreedOf(db, ticket.id);
  if (!agreed.backup) {
    throw new Failure('not-agreed', { what: 'The customer has not agreed to a backup.' });
  }
  const password = wanted.encrypted ? wanted.password : OPEN_PASSWORD;
  if (wanted.archiveId === null && wanted.encrypted) await mustBeStrong(password);
  const facts = await bench.presentDevice(device.serial);
  await mustBeFree(db, facts.serial);
  mustBeReady(backupReadiness(facts), wanted.accepted);
  const { scope, choice, coverage, expected } = await scopeOf(planning, facts, wanted);
  const estimate = planning.estimateFor(number, wanted, facts);
  const atMost = estimate && Math.ceil(estimate.stored.high * STORED_OVERHEAD);
  const takenAt = context.clock.now().toISOString();
  const place = wanted.archiveId
    ? await knownPlace(context, wanted.archiveId, device.id, password, ticket.id)
    : await newPlace(
        db,
        wanted.rackId,
        atMost ?? Math.ceil(expected.bytes * STORED_OVERHEAD),
        await archiveName(db, number, customer.name, facts, takenAt),
      );
  // Of a further backup nobody knows the size until it was looked at; what is full already is full.
  if (!place.isNew) await rackWithRoom(db, place.rackId, atMost ?? 0);
  const escrow =
    place.isNew && wanted.encrypted && agreed.escrow ? await escrowRecipient(db) : null;
  if (place.isNew && wanted.encrypted && agreed.escrow && escrow === null) {
    throw new Failure('escrow-missing');
  }
  const backup = backupIdSchema.parse(randomUUID());
  const { rackId, folder, archive, isNew } = place;
  return startOperation(
    context,
    {
      kind: 'backup',
      locks: [deviceLock(facts.serial), archiveLock(archive, 'update')],
      ticketId: ticket.id,
      ticketNumber: number,
      deviceId: facts.id,
      deviceName: facts.name,
      archiveId: archive,
      backupId: backup,
      estimate,
      what: `Backup started: ${formatBytes(expected.bytes)} onto ${place.rackName}${isNew ? '' : ', into the archive that is there'}.`,
      input: {
        ...{ rackId, folder, archive, isNew, backup, takenAt, expected, scope, choice, coverage },
        ticket: number,
        ticketId: ticket.id,
        device: backedUp(facts),
        knownDeviceId: device.id,
        contentRevision: facts.contentRevision ?? '',
        ...(escrow === null ? {} : { escrow }),
        passwordHolder: wanted.encrypted ? wanted.passwordHolder : 'nobody',
        reminder: wanted.encrypted ? wanted.reminder : '',
        continued: false,
        followed,
      },
    },
    { password },
  );
}

/** Whose backup it is, as the archive keeps it. */
export const backedUp = ({
  family,
  familyName,
  kind,
  model,
  name,
  serial,
  osName,
  osVersion,
}: Record<
  'family' | 'familyName' | 'kind' | 'model' | 'name' | 'serial' | 'osName' | 'osVersion',
  string
>) => ({ family, familyName, kind, model, name, serial, osName, osVersion });

/** What was accepted when a backup began is not asked for again when it goes on. */
export function acceptable(facts: DeviceFacts): string[] {
  return backupReadiness(facts)
    .filter((c) => c.weight === 'accept')
    .map((c) => c.id);
}
