import { randomUUID } from 'node:crypto';
import { pipeline } from 'node:stream/promises';
import {
  lookMediaPath,
  lookPicturePath,
  lookTakeOutPath,
  picturedSchema,
  routes,
  type LookIn,
} from '@bright-cellar/contract';
import { Failure, type ArchiveId, type BackupId } from '@bright-cellar/core';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { z } from 'zod';
import { agreedOf } from '../agreements/index.js';
import { backupForWork, presentCopy } from '../archives/index.js';
import { nameOf } from '../database/columns.js';
import type { Database } from '../database/connect.js';
import { archives, backups, devices, lookIns, technicians, tickets } from '../database/schema.js';
import { allowed, keptNowhere } from '../http/index.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import type { Served } from '../served.js';
import type { Context } from '../shop.js';
import {
  basketOrder,
  beginLookInOrder,
  compareOrder,
  comparisonOrder,
  differencesOrder,
  endLookInOrder,
  lookConversationsOrder,
  lookedOrder,
  lookFilesOrder,
  lookMediaOrder,
  lookMessagesOrder,
  lookPictureOrder,
  lookSearchOrder,
  lookSamplesOrder,
  lookShelfOrder,
  lookTextOrder,
  openLookInsOrder,
  pickOrder,
  prepareTakeOutOrder,
  putBackOrder,
  searchShelvesOrder,
  takeOutOrder,
  takeOutStateOrder,
  takeOutToRackOrder,
} from './orders.js';

/** Messages that are told at once. */
const MESSAGES = 200;
/** How large a preview may be, of a side. */
const PIXELS_MOST = 2048;

/** Looking into backups: what is in them goes from the work process to whoever looks, and stays nowhere on the way. */
export function lookInRoutes({ app, answer, shop }: Served): void {
  const { orders } = shop;
  const by = ({ actor }: Context, { id }: { id: string }) => ({
    ...{ id, technicianId: actor.technicianId },
  });
  answer(routes.lookIns, ({ context }) => openLookIns(context));
  answer(routes.beginLookIn, ({ context, params, body }) => beginLookIn(context, params.id, body));
  answer(routes.endLookIn, ({ context, params }) =>
    orders.ask(endLookInOrder, by(context, params)),
  );
  answer(routes.lookAmounts, ({ context, params }) => orders.ask(lookedOrder, by(context, params)));
  answer(routes.lookConversations, ({ context, params, body }) =>
    orders.ask(lookConversationsOrder, { ...by(context, params), ...body }),
  );
  answer(routes.lookMessages, ({ context, params, query }) =>
    orders.ask(lookMessagesOrder, {
      ...by(context, params),
      ...{ conversation: params.conversation, from: query.from, atMost: MESSAGES },
    }),
  );
  answer(routes.searchLookIn, ({ context, params, body }) =>
    orders.ask(lookSearchOrder, { ...by(context, params), ...body }),
  );
  answer(routes.lookFiles, ({ context, params, body }) =>
    orders.ask(lookFilesOrder, { ...by(context, params), ...body }),
  );
  answer(routes.lookSamples, ({ context, params }) =>
    orders.ask(lookSamplesOrder, by(context, params)),
  );
  answer(routes.lookShelf, ({ context, params, body }) =>
    orders.ask(lookShelfOrder, { ...by(context, params), shelf: params.shelf, ...body }),
  );
  answer(routes.searchShelves, ({ context, params, body }) =>
    orders.ask(searchShelvesOrder, { ...by(context, params), ...body }),
  );
  answer(routes.lookText, ({ context, params, body }) =>
    orders.ask(lookTextOrder, { ...by(context, params), ...body }),
  );
  answer(routes.compareLook, async ({ context, params, body }) =>
    orders.ask(compareOrder, {
      ...by(context, params),
      with: 'archiveId' in body.with ? await otherArchive(context, body.with) : body.with,
    }),
  );
  answer(routes.lookComparison, ({ context, params }) =>
    orders.ask(comparisonOrder, by(context, params)),
  );
  answer(routes.lookDifferences, ({ context, params, body }) =>
    orders.ask(differencesOrder, { ...by(context, params), ...body }),
  );
  answer(routes.lookBasket, ({ context, params }) => orders.ask(basketOrder, by(context, params)));
  answer(routes.pickInLook, ({ context, params, body }) =>
    orders.ask(pickOrder, { ...by(context, params), ...body }),
  );
  answer(routes.putBackInLook, ({ context, params, body }) =>
    orders.ask(putBackOrder, { ...by(context, params), ...body }),
  );
  answer(routes.takeOut, ({ context, params, body }) =>
    orders.ask(prepareTakeOutOrder, { ...by(context, params), ...body }),
  );
  answer(routes.takeOutState, ({ context, params }) =>
    orders.ask(takeOutStateOrder, { ...by(context, params), takeOut: params.takeOut }),
  );
  answer(routes.takeOutToRack, ({ context, params, body }) =>
    orders.ask(takeOutToRackOrder, {
      ...by(context, params),
      ...{ takeOut: params.takeOut, rackId: body.rackId },
    }),
  );
  const prepared = z.object({ id: z.uuid(), takeOut: z.uuid() });
  app.get(lookTakeOutPath(':id', ':takeOut'), async (request, response) => {
    const { technicianId } = allowed(request, 'take-out');
    const wanted = prepared.safeParse(request.params);
    if (!wanted.success) throw new Failure('not-found');
    const { head, bytes } = await orders.open(takeOutOrder, { ...wanted.data, technicianId });
    keptNowhere(response);
    response.attachment(head.name);
    await pipeline(bytes, response).catch(() => response.destroy());
  });
  const one = z.object({ id: z.uuid(), item: z.coerce.number().int().min(0) });
  const asked = picturedSchema.extend({
    id: z.uuid(),
    pixels: z.coerce.number().int().min(16).max(PIXELS_MOST),
  });
  app.get(
    lookPicturePath(':id', { of: ':of', number: ':number' }, ':pixels'),
    async (request, response) => {
      const { technicianId } = allowed(request, 'look-in');
      const wanted = asked.safeParse(request.params);
      if (!wanted.success) throw new Failure('not-found');
      const { id, pixels, ...pictured } = wanted.data;
      const { webp } = await orders.ask(lookPictureOrder, { id, technicianId, pictured, pixels });
      keptNowhere(response);
      response.type('image/webp').send(Buffer.from(webp, 'base64'));
    },
  );
  app.get(lookMediaPath(':id', ':item'), async (request, response) => {
    const { technicianId } = allowed(request, 'look-in');
    const wanted = one.safeParse(request.params);
    if (!wanted.success) throw new Failure('not-found');
    const [, first, last] = /^bytes=(\d{1,15})-(\d{0,15})$/.exec(request.headers.range ?? '') ?? [];
    const { head, bytes } = await orders.open(lookMediaOrder, {
      ...{ ...wanted.data, technicianId },
      ...{ from: Number(first ?? 0), to: last ? Number(last) + 1 : null },
    });
    keptNowhere(response);
    response.setHeader('content-type', head.type);
    response.setHeader('accept-ranges', 'bytes');
    response.setHeader('content-length', Math.max(0, head.to - head.from));
    if (first !== undefined) {
      const isThere = head.from < head.to;
      const range = isThere ? `${head.from}-${head.to - 1}` : '*';
      response.setHeader('content-range', `bytes ${range}/${head.size}`);
      response.status(isThere ? 206 : 416);
    }
    // Whoever plays it goes elsewhere, and hangs up.
    await pipeline(bytes, response).catch(() => response.destroy());
  });
}

/** The customer agrees to a look, on a ticket that is open. @throws Failure `not-agreed` */
async function mustBeAgreed(
  db: Database,
  ticket: { id: string; number: string; closedAt: Date | null },
): Promise<void> {
  if (ticket.closedAt !== null) {
    throw new Failure('not-agreed', {
      what: `Ticket ${ticket.number} is closed: what was agreed on it is over.`,
      next: 'Open a ticket for this visit, and note there what the customer agrees to.',
    });
  }
  if (!(await agreedOf(db, ticket.id)).lookIn) {
    throw new Failure('not-agreed', {
      what: 'The customer has not agreed that the shop looks inside.',
    });
  }
}

/**
 * Another archive that a backup is compared with: its customer agreed to that as well, and it is on record there.
 * @throws Failure `not-agreed`, `archive-not-here`, `not-found`
 */
async function otherArchive(
  context: Context,
  { archiveId, password }: { archiveId: ArchiveId; password: string },
) {
  const { db } = context;
  const [newest] = await db
    .select({ id: backups.id })
    .from(backups)
    .where(and(eq(backups.archiveId, archiveId), isNull(backups.prunedIn)))
    .orderBy(desc(backups.takenAt))
    .limit(1);
  if (!newest) throw new Failure('not-found');
  const { ticket } = await backupForWork(db, newest.id);
  await mustBeAgreed(db, ticket);
  const { rackId, folder } = await presentCopy(db, archiveId);
  await noteOnly(context, {
    action: 'look-compared',
    what: 'Its newest backup was compared with one that is looked into.',
    ticketId: ticket.id,
  });
  return { other: { rackId, folder, password } };
}

/** @throws Failure `not-agreed`, `archive-not-here`, `wrong-password`, `archive-in-use`, `archive-damaged` */
async function beginLookIn(
  context: Context,
  backupId: BackupId,
  wanted: { fromDesk: boolean; password: string; reason: string },
): Promise<{ id: string }> {
  const { db } = context;
  const { archive, ticket, device } = await backupForWork(db, backupId);
  await mustBeAgreed(db, ticket);
  const at = { archiveId: archive.id, ticketId: ticket.id, backupId };
  return context.desks.use(device.id, wanted, 'look', 'forget', ({ password, reason }) =>
    openWith(context, at, { password, reason }),
  );
}

async function openWith(
  context: Context,
  at: { archiveId: ArchiveId; ticketId: string; backupId: BackupId },
  { password, reason }: { password: string; reason: string },
): Promise<{ id: string }> {
  const { db, orders, actor } = context;
  const { rackId, folder } = await presentCopy(db, at.archiveId);
  try {
    return await orders.ask(beginLookInOrder, {
      ...{ ...at, id: randomUUID(), rackId, folder, reason, password },
      ...{ technicianId: actor.technicianId, session: actor.session ?? '' },
    });
  } catch (error) {
    if (error instanceof Failure && error.problem.code === 'wrong-password') {
      const what = 'A password was tried that does not open the backup.';
      await noteOnly(context, { action: 'wrong-password', ticketId: at.ticketId, what });
    }
    throw error;
  }
}

async function openLookIns({ db, orders, actor }: Context): Promise<LookIn[]> {
  const rows = await db
    .select({
      id: lookIns.id,
      archiveId: lookIns.archiveId,
      backupId: lookIns.backupId,
      technicianId: lookIns.technicianId,
      openedAt: lookIns.openedAt,
      ticketNumber: tickets.number,
      deviceName: devices.name,
      by: nameOf(technicians),
    })
    .from(lookIns)
    .innerJoin(tickets, eq(tickets.id, lookIns.ticketId))
    .innerJoin(archives, eq(archives.id, lookIns.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .leftJoin(technicians, eq(technicians.id, lookIns.technicianId))
    .where(and(isNull(lookIns.endedAt)));
  // Where nothing is open, nobody is asked.
  // Where the work process is gone, so are its keys: nothing is open.
  const open = rows.length === 0 ? [] : await orders.ask(openLookInsOrder, {}).catch(() => []);
  return rows.flatMap(({ technicianId, openedAt, ...row }) => {
    const one = open.find(({ id }) => id === row.id);
    return one
      ? [
          {
            ...{ ...row, closesAt: one.closesAt, since: openedAt.toISOString() },
            isOwn: technicianId === actor.technicianId,
          },
        ]
      : [];
  });
}
