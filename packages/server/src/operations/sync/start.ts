import type { Operation } from '@bright-cellar/contract';
import { deviceLock, Failure, type DeviceFacts } from '@bright-cellar/core';
import { mustBeFree } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import type { Start } from '../start.js';
import { mustBeAgreed } from './open.js';
import type { Context } from '../../shop.js';
import { closePartnerOrder, openKeptOrder, setUpSyncOrder } from './orders.js';

export const startSync: Start<'sync'> = (context, { number }, body) =>
  beginSync(context, number, body, false);

type Asked = Parameters<Start<'sync'>>[2];

/** Keeps a device in step by itself, with a server that was named before. @param sealed as it was kept */
export async function beginRegularSync(
  context: Context,
  number: string,
  facts: DeviceFacts,
  sealed: string,
): Promise<Operation> {
  const { technicianId } = context.actor;
  const kept = await context.orders.ask(openKeptOrder, {
    ...{ technicianId, deviceId: facts.id, sealed },
  });
  const asked = { deviceId: facts.id, partner: kept.id, setup: kept.setup };
  const serialTail = facts.serial.slice(-4);
  const body = { ...asked, serialTail, removesMeant: false, undoes: false };
  try {
    return await beginSync(context, number, body, true);
  } catch (error) {
    await context.orders.ask(closePartnerOrder, { id: kept.id, technicianId });
    throw error;
  }
}

async function beginSync(
  context: Context,
  number: string,
  body: Asked,
  regular: boolean,
): Promise<Operation> {
  const { ticket } = await mustBeAgreed(context, number);
  const facts = await context.bench.freshFacts(body.deviceId);
  await mustBeFree(context.db, facts.serial);
  const ways = body.setup.books.map(({ kind }) => body.setup.ways[kind].direction);
  const changes = facts.capabilities.takes?.changes === true;
  if (!changes && ways.some((direction) => direction !== 'off-device')) {
    throw new Failure('device-not-ready', {
      what: 'This device takes nothing beside what is on it.',
      safe: 'Nothing was written.',
      next: 'Keep it in step only off the device.',
    });
  }
  const writes = body.serialTail !== null;
  if (body.undoes && !writes) throw new Failure('wrong-serial');
  const tail = body.serialTail ?? '';
  if (writes && !facts.serial.toUpperCase().endsWith(tail.toUpperCase())) {
    throw new Failure('wrong-serial');
  }
  const { technicianId } = context.actor;
  const { partner: id, deviceId, setup } = body;
  const { other, mayWrite } = await context.orders.ask(setUpSyncOrder, {
    ...{ id, technicianId, deviceId, setup },
  });
  if (!mayWrite && ways.some((direction) => direction !== 'onto-device')) {
    throw new Failure('device-not-ready', {
      what: 'Nothing can be written on the other side.',
      safe: 'Nothing was written.',
      next: 'Keep it in step only onto the device.',
    });
  }
  if (other) {
    const { serial } = await context.bench.freshFacts(other.deviceId);
    // Another device may lie there now.
    if (serial !== other.serial) throw new Failure('wrong-serial');
    await mustBeFree(context.db, serial);
  }
  const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
  return startOperation(
    context,
    {
      kind: 'sync',
      locks: [facts.serial, ...(other ? [other.serial] : [])].map(deviceLock),
      ...{ ticketId: ticket.id, ticketNumber: number, archiveId: null, backupId: null },
      deviceId: facts.id,
      deviceName: target,
      what: whatOf(body, target),
      input: {
        ...{ serial: facts.serial, family: facts.family, partner: body.partner, writes },
        ...{ removesMeant: body.removesMeant, undoes: body.undoes, other },
        ...{ regular, revision: facts.contentRevision },
      },
    },
    {},
  );
}

function whatOf(
  { undoes, serialTail }: { undoes: boolean; serialTail: string | null },
  target: string,
): string {
  const both = `${target} and the customer’s own books`;
  if (undoes) return `What was last written on ${both} is taken back.`;
  return serialTail === null
    ? `What would bring ${both} into step is looked at.`
    : `${both} are brought into step.`;
}
