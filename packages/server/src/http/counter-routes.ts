import { paperKinds, paperPath, routes } from '@bright-cellar/contract';
import { findCustomers } from '../services/customers.js';
import { find } from '../services/find.js';
import { knownVisits, openTicket, tieDevice } from '../services/intake.js';
import { labelFor, slipFor } from '../services/papers.js';
import { qrCode } from '../services/password-desk.js';
import { keepPlan, plansFor } from '../services/plans.js';
import { listRacks } from '../services/racks.js';
import { closeTicket, noteAgreement, settleStep } from '../services/settling.js';
import { listTickets, ticketByNumber } from '../services/tickets.js';
import { ticketForWork } from '../services/visits.js';
import { answer } from './answer.js';
import { checkedSession } from './session.js';
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
    await noteAgreement(db, params.number, body, by.technicianId);
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
  answer(app, routes.openDesk, async ({ params, body }) => {
    const { device } = await ticketForWork(db, params.number);
    const { token, until } = desks.open(
      device.id,
      `${device.familyName} ${device.model}`,
      body.purpose,
    );
    const address = `${config.publicAddress}/desk/${token}`;
    return { address, code: qrCode(address), until: until.toISOString() };
  });
  answer(app, routes.desk, async ({ params }) => {
    const { device } = await ticketForWork(db, params.number);
    const { state, until } = desks.stateOf(device.id);
    return { state, until: until?.toISOString() ?? null };
  });
  answer(app, routes.customerDesk, ({ params }) => ({
    shopName: config.shopName,
    ...desks.view(params.token),
  }));
  answer(app, routes.giveAtDesk, ({ params, body }) => {
    desks.give(params.token, body);
    return {};
  });
  answer(app, routes.applications, async ({ params }) => {
    const { device } = await ticketByNumber(db, bench, params.number);
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
