import { deskActions, paperKinds, paperPath, routes } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { noteAudit } from '../services/audit.js';
import { findCustomers } from '../services/customers.js';
import { find } from '../services/find.js';
import { knownVisits, openTicket, tieDevice } from '../services/intake.js';
import { labelFor, slipFor } from '../services/papers.js';
import { qrCode } from '../services/password-desk.js';
import { keepPlan, plansFor } from '../services/plans.js';
import { listRacks } from '../services/racks.js';
import { closeTicket, noteAgreement, settleStep } from '../services/settling.js';
import { listTickets, ticketByNumber } from '../services/tickets.js';
import { OPEN_FILE_NOT_AGREED } from '../services/extracts.js';
import { agreedOf, ticketForWork } from '../services/visits.js';
import { answer } from './answer.js';
import { checkedSession, currentSession } from './session.js';
import type { Served } from './served.js';

/** Upstairs: the bench, customers, tickets and their papers, the customer’s own page, and what is to be taken. */
export function counterRoutes({ app, shop, planning, desks, live, config }: Served): void {
  const { db, bench } = shop;
  answer(app, routes.bench, () => bench.view());
  answer(app, routes.racks, () => listRacks(db));
  answer(app, routes.find, ({ query }) => find(db, bench, query.text));
  answer(app, routes.customers, ({ query }) => findCustomers(db, query.text));
  answer(app, routes.tickets, () => listTickets(db, bench));
  answer(app, routes.ticket, ({ params }) => ticketByNumber(db, bench, params.number));
  answer(app, routes.newTicket, async ({ body, by }) => {
    const number = await openTicket(db, bench, body, by.technicianId);
    return changedTicket(number);
  });
  /** What changed on a ticket, told to everybody and answered as it is now. */
  const changedTicket = async (number: string) => {
    live.tell({ type: 'changed', topic: 'tickets' });
    live.tell({ type: 'bench', bench: await bench.view() });
    return ticketByNumber(db, bench, number);
  };
  answer(app, routes.noteAgreement, async ({ params, body, by }) => {
    await noteAgreement(shop, params.number, body, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.settleStep, async ({ params, body, by }) => {
    await settleStep(db, bench, params.number, params.step, body, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.tieDevice, async ({ params, body, by }) => {
    await tieDevice(db, bench, params.number, body, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.closeTicket, async ({ params, by }) => {
    await closeTicket(db, bench, params.number, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.knownVisits, async ({ params }) =>
    knownVisits(db, await bench.freshFacts(params.deviceId)),
  );
  answer(app, routes.openDesk, async ({ params, body, by }) => {
    const { ticket, device } = await ticketForWork(db, params.number);
    mustBeSafe(config.publicAddress);
    const name = `${device.familyName} ${device.model}`;
    const { token, until } = desks.open(device.id, name, body.action);
    await noteAudit(db, {
      technicianId: by.technicianId,
      ticketId: ticket.id,
      action: 'desk-opened',
      what: `A page was opened for the customer’s password: to ${deskActions[body.action]}.`,
    });
    const address = `${config.publicAddress}/desk/${token}`;
    return { address, code: qrCode(address), until: until.toISOString() };
  });
  answer(app, routes.desk, async ({ params }) => {
    const { device } = await ticketForWork(db, params.number);
    const { until, ...state } = desks.stateOf(device.id);
    return { ...state, until: until?.toISOString() ?? null };
  });
  answer(app, routes.customerDesk, ({ params, request }) => {
    const technician = currentSession(request)?.name ?? null;
    const { until, ...view } = desks.view(params.token, technician);
    return { shopName: config.shopName, ...view, until: until.toISOString() };
  });
  answer(app, routes.giveAtDesk, ({ params, body }) => {
    desks.give(params.token, body);
    return {};
  });
  answer(app, routes.applications, async ({ params }) => {
    const { ticket, device } = await ticketForWork(db, params.number);
    const agreed = await agreedOf(db, ticket.id);
    // Which applications somebody uses says as much as what is in them.
    if (!agreed.backup || !agreed.lookIn) {
      throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
    }
    const { id } = await bench.presentDevice(device.serial);
    const groups = await bench.link.groups(id);
    return groups.filter((g) => g.class === 'applications');
  });
  for (const kind of paperKinds) {
    app.get(paperPath(':number', kind), async (request, response) => {
      checkedSession(request, false);
      const ticket = await ticketByNumber(db, bench, String(request.params.number));
      const paper = kind === 'label' ? labelFor(ticket) : slipFor(ticket, config.shopName);
      response.type('application/pdf');
      response.setHeader('content-disposition', `inline; filename="${kind}-${ticket.number}.pdf"`);
      response.send(await paper);
    });
  }
  answer(app, routes.listing, ({ params, by }) => planning.listing(params.number, by.technicianId));
  answer(app, routes.planCost, ({ params, body }) => planning.cost(params.number, body));
  answer(app, routes.plans, ({ params, by }) => plansFor(db, params.number, by.technicianId));
  answer(app, routes.savePlan, async ({ params, body: { name, ...scope }, by }) => {
    await keepPlan(db, params.number, scope, name, by.technicianId);
    return plansFor(db, params.number, by.technicianId);
  });
}

/** What is typed on a page crosses the network: in the clear it may only cross this computer. @throws Failure `not-safe-here` */
function mustBeSafe(address: string): void {
  const { protocol, hostname } = new URL(address);
  const isLoopback = /^(?:127\.|localhost$|\[::1\]$)/.test(hostname);
  if (protocol !== 'https:' && !isLoopback) throw new Failure('not-safe-here');
}
