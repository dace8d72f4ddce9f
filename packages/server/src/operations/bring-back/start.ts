import { crossingReadiness, deviceLock, Failure } from '@bright-cellar/core';
import { mustBeFree, mustBeReady } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { ticketForWork } from '../../tickets/index.js';
import type { Start } from '../start.js';
import { heldAmountOrder } from './orders.js';

export const startBringBack: Start<'bringBack'> = async (context, { number }, body) => {
  const { ticket } = await ticketForWork(context.db, number);
  const facts = await context.bench.freshFacts(body.deviceId);
  await mustBeFree(context.db, facts.serial);
  mustBeReady(crossingReadiness(facts));
  const writes = body.serialTail !== null;
  const tail = body.serialTail ?? '';
  if (writes && !facts.serial.toUpperCase().endsWith(tail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const { technicianId } = context.actor;
  const expected = await context.orders.ask(heldAmountOrder, { id: body.file, technicianId });
  const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
  return startOperation(
    context,
    {
      kind: 'bringBack',
      locks: [deviceLock(facts.serial)],
      ...{ ticketId: ticket.id, ticketNumber: number, archiveId: null, backupId: null },
      deviceId: facts.id,
      deviceName: target,
      what: writes
        ? `Messages or calls out of a file are brought back onto ${target}.`
        : `What a file would bring onto ${target} is looked at.`,
      input: {
        ...{ serial: facts.serial, family: facts.family, file: body.file, expected, writes },
        adds: facts.capabilities.takes?.adds === true,
      },
    },
    {},
  );
};
