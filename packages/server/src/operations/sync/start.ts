import type { Operation } from '@bright-cellar/contract';
import { deviceLock, Failure, type DeviceFacts } from '@bright-cellar/core';
import { mustBeFree } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import type { Start } from '../start.js';
import { mustBeAgreed, openCustomersDevice } from './open.js';
import type { Context } from '../../shop.js';
import { closePartnerOrder, openKeptOrder, setUpSyncOrder } from './orders.js';

export const startSync: Start<'sync'> = (context, { number }, body) =>
  beginSync(context, number, body, false);

type Asked = Parameters<Start<'sync'>>[2];

/**
 * Keeps a device in step by itself, with whom was named before.
 * @param sealed as it was kept @param other the other device, where it is kept in step with one
 */
export async function beginRegularSync(
  context: Context,
  number: string,
  facts: DeviceFacts,
  { sealed, other }: { sealed: string; other: DeviceFacts | null },
): Promise<Operation> {
  const { technicianId } = context.actor;
  const { setup, ...kept } = await context.orders.ask(openKeptOrder, {
    ...{ technicianId, deviceId: facts.id, sealed },
  });
  const id =
    kept.id ??
    (other && (await openCustomersDevice(context, number, { deviceId: facts.id, other: other.id })))
      ?.id;
  if (id === undefined) throw new Failure('device-not-here');
  const asked = { deviceId: facts.id, partner: id, setup };
  const serialTail = facts.serial.slice(-4);
  const body = { ...asked, serialTail, removesMeant: false, undoes: false };
  try {
    return await beginSync(context, number, body, true);
  } catch (error) {
    await context.orders.ask(closePartnerOrder, { id, technicianId });
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
  const there = other && (await context.bench.freshFacts(other.deviceId));
  if (there) {
    // Another device may lie there now.
    if (there.serial !== other.serial) throw new Failure('wrong-serial');
    await mustBeFree(context.db, there.serial);
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
        ...{ regular, revision: revisionOf(facts, there) },
      },
    },
    {},
  );
}

/** What the contents of the device are now, and of the other, where it is brought into step with one. */
export function revisionOf(facts: DeviceFacts, other: DeviceFacts | null): string | null {
  const { contentRevision } = facts;
  if (!other || contentRevision === null) return contentRevision;
  return `${contentRevision} ${other.contentRevision ?? ''}`;
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
