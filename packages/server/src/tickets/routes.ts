import { paperKinds, paperPath, routes } from '@bright-cellar/contract';
import { checkedSession } from '../http/index.js';
import type { Served } from '../served.js';
import { findCustomers } from './customers.js';
import { knownVisits, openTicket, tieDevice } from './intake.js';
import { closeTicket, noteAgreement, settleStep } from './settling.js';
import { listTickets, ticketByNumber } from './tickets.js';

/** Customers, tickets and their papers. */
export function ticketRoutes({ app, answer, shop, config }: Served): void {
  const { db, bench } = shop;
  answer(routes.customers, ({ query }) => findCustomers(db, query.text));
  answer(routes.tickets, ({ query }) => listTickets(shop, query));
  answer(routes.ticket, ({ params }) => ticketByNumber(shop, params.number));
  answer(routes.newTicket, async ({ context, body }) =>
    ticketByNumber(shop, await openTicket(context, body)),
  );
  answer(routes.noteAgreement, async ({ context, params, body }) => {
    await noteAgreement(context, params.number, body);
    return ticketByNumber(shop, params.number);
  });
  answer(routes.settleStep, async ({ context, params, body }) => {
    await settleStep(context, params.number, params.step, body);
    return ticketByNumber(shop, params.number);
  });
  answer(routes.tieDevice, async ({ context, params, body }) => {
    await tieDevice(context, params.number, body);
    return ticketByNumber(shop, params.number);
  });
  answer(routes.closeTicket, async ({ context, params }) => {
    await closeTicket(context, params.number);
    return ticketByNumber(shop, params.number);
  });
  answer(routes.knownVisits, async ({ params }) =>
    knownVisits(db, await bench.freshFacts(params.deviceId)),
  );
  for (const kind of paperKinds) {
    app.get(paperPath(':number', kind), async (request, response) => {
      checkedSession(request, false);
      const ticket = await ticketByNumber(shop, String(request.params.number));
      // What draws papers takes a third of a start to load.
      const { labelFor, slipFor } = await import('./papers.js');
      const paper = kind === 'label' ? labelFor(ticket) : slipFor(ticket, config.shopName);
      response.type('application/pdf');
      response.setHeader('content-disposition', `inline; filename="${kind}-${ticket.number}.pdf"`);
      response.send(await paper);
    });
  }
}
