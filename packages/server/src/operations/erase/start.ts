import {
  archiveLock,
  deviceLock,
  eraseOrder,
  Failure,
  formatBytes,
  isProblem,
  totalOf,
  type LinkDeviceId,
} from '@bright-cellar/core';
import { provenFor } from '../../archives/index.js';
import { mustBeFree } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import type { Context } from '../../shop.js';
import type { Start } from '../start.js';

export async function eraseReadiness(context: Context, deviceId: LinkDeviceId) {
  const facts = await context.bench.freshFacts(deviceId);
  const { proven } = await provenFor(context, facts);
  const held = totalOf(facts.content ?? []);
  const loses = facts.empty
    ? 'The device is empty already.'
    : `Everything on ${facts.name} is lost: ${held.items} items, ${formatBytes(held.bytes)}.`;
  return isProblem(proven)
    ? { allowed: false, because: proven.what, next: proven.next, loses }
    : {
        allowed: !facts.empty,
        because: 'Its backup is proven and holds what is on it now.',
        next: null,
        loses,
      };
}

export const startErase: Start<'erase'> = async (context, { deviceId }, { serialTail }) => {
  const facts = await context.bench.freshFacts(deviceId);
  await mustBeFree(context.db, facts.serial);
  const { proven, copy, ticket } = await provenFor(context, facts);
  if (isProblem(proven)) throw new Failure(proven.code, proven);
  if (!copy) throw new Failure('archive-not-here');
  const order = eraseOrder(facts, proven, serialTail);
  if (isProblem(order)) throw new Failure(order.code, order);
  const { device, proof } = order;
  return startOperation(
    context,
    {
      kind: 'erase',
      // The copy that it rests on stays as it is meanwhile.
      locks: [deviceLock(device.serial), archiveLock(copy.expected.archive, 'update')],
      ticketId: ticket?.id ?? null,
      ticketNumber: ticket?.number ?? null,
      deviceId: device.id,
      deviceName: device.name,
      archiveId: copy.expected.archive,
      backupId: proof.backupId,
      what: `Erase started on ${facts.familyName} ${facts.model} ${facts.serial}.`,
      input: {
        serial: device.serial,
        provenBackupId: proof.backupId,
        copyId: copy.id,
        contentRevision: proof.contentRevision,
        expected: copy.expected,
      },
    },
    {},
  );
};
