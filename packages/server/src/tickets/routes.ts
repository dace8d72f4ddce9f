import {
  handoverLanguageIds,
  paperKinds,
  paperPath,
  routes,
  type HandoverLanguage,
  type PaperKind,
  type Ticket,
} from '@bright-cellar/contract';
import { archiveIdSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { archiveById } from '../archives/index.js';
import { allowed } from '../http/index.js';
import { keepingOf } from '../keep/index.js';
import { shopOnPaper } from '../settings/index.js';
import type { Served } from '../served.js';
import type { Database } from '../database/connect.js';
import type { Shop } from '../shop.js';
import { findCustomers } from './customers.js';
import type { Kept } from './handover.js';
import { knownVisits, openTicket, tieDevice } from './intake.js';
import { closeTicket, noteAgreement, reopenTicket, settleStep } from './settling.js';
import { listTickets, ticketByNumber } from './tickets.js';

// What draws papers takes a third of a start to load.
async function paperOf({ db }: Shop, kind: PaperKind, ticket: Ticket, language: HandoverLanguage) {
  const shop = await shopOnPaper(db);
  if (kind === 'handover') {
    const { drawHandover, handoverOf } = await import('./handover.js');
    return drawHandover(
      ticket,
      handoverOf(ticket, await keptOf(db, ticket), language),
      shop,
      language,
    );
  }
  const { labelFor, slipFor } = await import('./papers.js');
  return kind === 'label' ? labelFor(ticket) : slipFor(ticket, shop);
}

/** What lies in the shop of a ticket's device. */
async function keptOf(db: Database, { archiveIds }: Ticket): Promise<Kept[]> {
  const kept: Kept[] = [];
  for (const id of archiveIds) {
    const archiveId = archiveIdSchema.parse(id);
    const archive = await archiveById(db, archiveId);
    kept.push({ archive, keeping: await keepingOf(db, archiveId) });
  }
  return kept;
}

/** Customers, tickets and their papers. */
export function ticketRoutes({ app, answer, shop }: Served): void {
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
  answer(routes.reopenTicket, async ({ context, params }) => {
    await reopenTicket(context, params.number);
    return ticketByNumber(shop, params.number);
  });
  answer(routes.knownVisits, async ({ params }) =>
    knownVisits(db, await bench.freshFacts(params.deviceId)),
  );
  answer(routes.handoverSheet, async ({ params, query }) => {
    const { handoverOf, titleOfSheet } = await import('./handover.js');
    const ticket = await ticketByNumber(shop, params.number);
    const { language } = query;
    return {
      title: titleOfSheet(language),
      sections: handoverOf(ticket, await keptOf(db, ticket), language),
    };
  });
  for (const kind of paperKinds) {
    app.get(paperPath(':number', kind), async (request, response) => {
      allowed(request, 'see');
      const ticket = await ticketByNumber(shop, String(request.params.number));
      // Whoever asks for a language that nobody wrote gets the shop's own.
      const language = z.enum(handoverLanguageIds).catch('en').parse(request.query.language);
      const paper = await paperOf(shop, kind, ticket, language);
      response.type('application/pdf');
      response.setHeader('content-disposition', `inline; filename="${kind}-${ticket.number}.pdf"`);
      response.send(paper);
    });
  }
}
