import { deviceLock, Failure, type LinkDeviceId } from '@bright-cellar/core';
import type { PartnerTold } from '@bright-cellar/contract';
import type { PartnerSite } from '@bright-cellar/core';
import { agreedOf } from '../../agreements/index.js';
import { mustBeFree } from '../../bench/index.js';
import { startOperation } from '../../engine/index.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import type { Start } from '../start.js';
import { openFilesOrder, openPartnerOrder, setUpSyncOrder } from './orders.js';

/** Names of people are shown side by side. @throws Failure `not-agreed` */
async function mustBeAgreed({ db }: Context, number: string) {
  const found = await ticketForWork(db, number);
  if (!(await agreedOf(db, found.ticket.id)).lookIn) {
    throw new Failure('not-agreed', {
      what: 'The customer has not agreed that the shop looks inside.',
      next: 'Ask the customer, and put their word on the ticket.',
    });
  }
  return found;
}

/** Signs in to the customer's server, and says what is there. */
export async function openCustomersServer(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; site: PartnerSite; password: string },
): Promise<PartnerTold> {
  const { ticket } = await mustBeAgreed(context, number);
  const { technicianId } = context.actor;
  const told = await context.orders.ask(openPartnerOrder, { ...asked, technicianId });
  await noteOnly(context, {
    action: 'partner-opened',
    what: `The customer’s own server was opened: ${told.books.length} books and calendars.`,
    ticketId: ticket.id,
  });
  return told;
}

/** The same with files that the customer brought. */
export async function openCustomersFiles(
  context: Context,
  number: string,
  asked: { deviceId: LinkDeviceId; text: string },
): Promise<PartnerTold> {
  const { ticket } = await mustBeAgreed(context, number);
  const { technicianId } = context.actor;
  const told = await context.orders.ask(openFilesOrder, { ...asked, technicianId });
  await noteOnly(context, {
    action: 'partner-opened',
    what: 'Files of contacts or a calendar that the customer brought were opened.',
    ticketId: ticket.id,
  });
  return told;
}

export const startSync: Start<'sync'> = async (context, { number }, body) => {
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
  await context.orders.ask(setUpSyncOrder, { id, technicianId, deviceId, setup });
  const target = `${facts.familyName} ${facts.model} ${facts.serial}`;
  return startOperation(
    context,
    {
      kind: 'sync',
      locks: [deviceLock(facts.serial)],
      ...{ ticketId: ticket.id, ticketNumber: number, archiveId: null, backupId: null },
      deviceId: facts.id,
      deviceName: target,
      what: whatOf(body, target),
      input: {
        ...{ serial: facts.serial, family: facts.family, partner: body.partner, writes },
        ...{ removesMeant: body.removesMeant, undoes: body.undoes },
      },
    },
    {},
  );
};

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
