import {
  backupReadiness,
  choiceOf,
  Failure,
  OPEN_PASSWORD,
  type NewBackup,
  type ArchiveId,
} from '@bright-cellar/core';
import type { FurtherCost } from '@bright-cellar/contract';
import { compareOrder } from '../../archives/index.js';
import { mustBeReady } from '../../bench/index.js';
import { roomOn } from '../../plans/index.js';
import { racksNow } from '../../racks/index.js';
import type { Context } from '../../shop.js';
import { ticketForWork } from '../../tickets/index.js';
import { knownPlace } from './places.js';
import { acceptable } from './start.js';

type Wanted = Pick<NewBackup, 'mode' | 'choice' | 'encrypted' | 'password' | 'fromDesk'> & {
  archiveId: ArchiveId;
};

/** What a further backup would send and cost. @throws Failure `wrong-password`, `archive-of-another`, `archive-not-here` */
export async function furtherCost(
  context: Context,
  number: string,
  asked: Wanted,
): Promise<FurtherCost> {
  const { db, bench, planning, orders } = context;
  const { ticket, device } = await ticketForWork(db, number);
  return context.desks.use(device.id, asked, 'further', 'hold', async (wanted) => {
    const { archiveId } = wanted;
    const facts = await bench.presentDevice(device.serial);
    mustBeReady(backupReadiness(facts), acceptable(facts));
    const password = wanted.encrypted ? wanted.password : OPEN_PASSWORD;
    const place = await knownPlace(context, archiveId, device.id, password, ticket.id);
    const { same, toSend, ids } = await orders.ask(compareOrder, {
      rackId: place.rackId,
      folder: place.folder,
      password,
      device: facts.id,
      choice: choiceOf(wanted.mode, wanted.choice),
    });
    const estimate = await planning.furtherCost(number, wanted, facts, archiveId, ids);
    const rack = (await racksNow(db)).find((r) => r.id === place.rackId);
    if (!rack) throw new Failure('not-found');
    return { same, toSend, estimate, rackName: place.rackName, ...roomOn(rack, estimate.stored) };
  });
}
