import { deskActions, routes } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { currentSession } from '../http/index.js';
import { qrCode } from '../kernel/qr-code.js';
import { readSettings } from '../settings/index.js';
import type { Served } from '../served.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { ticketForWork } from '../tickets/index.js';

/** The page on which customers type a password by themselves: opening it at the counter. */
export function deskRoutes({ answer, shop }: Served): void {
  const { db, desks } = shop;
  answer(routes.openDesk, async ({ context, params, body }) => {
    const { ticket, device } = await ticketForWork(db, params.number);
    const at = shop.network.deskAddress();
    mustBeSafe(at);
    const name = `${device.familyName} ${device.model}`;
    const { token, until } = desks.open(device.id, name, body.action);
    await noteOnly(context, {
      ticketId: ticket.id,
      action: 'desk-opened',
      what: `A page was opened for the customer’s password: to ${deskActions[body.action]}.`,
    });
    const address = `${at}/desk/${token}`;
    return { address, code: await qrCode(address), until: until.toISOString() };
  });
  answer(routes.desk, async ({ params }) => {
    const { device } = await ticketForWork(db, params.number);
    const { until, ...state } = desks.stateOf(device.id);
    return { ...state, until: until?.toISOString() ?? null };
  });
}

/** The page itself: on a door of its own, on which nothing else is. */
export function customerDeskRoutes({
  answer,
  shop: { db, desks },
}: Pick<Served, 'answer' | 'shop'>): void {
  answer(routes.customerDesk, async ({ params, request }) => {
    const technician = currentSession(request)?.name ?? null;
    const { until, ...view } = desks.view(params.token, technician);
    const { shop: of } = await readSettings(db);
    return { shopName: of.name, ...view, until: until.toISOString() };
  });
  answer(routes.giveAtDesk, async ({ params, body }) => {
    await desks.give(params.token, body);
    return {};
  });
}

/** What is typed on a page crosses the network: in the clear it may only cross this computer. @throws Failure `not-safe-here` */
function mustBeSafe(address: string): void {
  const { protocol, hostname } = new URL(address);
  const isLoopback = /^(?:127\.|localhost$|\[::1\]$)/.test(hostname);
  if (protocol !== 'https:' && !isLoopback) throw new Failure('not-safe-here');
}
