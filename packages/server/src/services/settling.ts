import {
  agreementNames,
  currentStep,
  doneProblem,
  Failure,
  runSheet,
  skipProblem,
  type AgreementKind,
  type StepId,
} from '@bright-cellar/core';
import { and, eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { agreements, ticketSteps, tickets } from '../database/schema.js';
import { noteAudit } from './audit.js';
import type { BenchWatch } from './bench.js';
import { withdrawConsent } from './escrow.js';
import type { Shop } from './shop.js';
import { ticketForWork, visitFacts } from './visits.js';

/** What the customer said now, for or against. */
export async function noteAgreement(
  shop: Shop,
  number: string,
  said: { kind: AgreementKind; given: boolean; days: number | null },
  technicianId: string,
): Promise<void> {
  const { db } = shop;
  const { ticket, device } = await ticketForWork(db, number);
  await db.transaction(async (tx) => {
    await tx
      .insert(agreements)
      .values({ ...said, ticketId: ticket.id, by: technicianId, at: new Date() });
    const days = said.days === null ? '' : ` for ${said.days} days`;
    await noteAudit(tx, {
      technicianId,
      ticketId: ticket.id,
      action: 'agreement',
      what: `${agreementNames[said.kind]}${days}: ${said.given ? 'the customer agreed' : 'the customer did not agree, or took it back'}.`,
    });
  });
  if (said.kind === 'escrow' && !said.given) await withdrawConsent(shop, device.id);
}

/** Somebody's word about a step, where the run sheet's rules allow it. @throws Failure `step-refused` */
export async function settleStep(
  db: Database,
  bench: BenchWatch,
  number: string,
  step: StepId,
  said: { state: 'done' | 'skipped' | 'open'; reason: string },
  technicianId: string,
): Promise<void> {
  const { visit, facts } = await visitFacts(db, bench, number);
  const ticketId = visit.ticket.id;
  if (said.state !== 'open') {
    const refusal = said.state === 'done' ? doneProblem(facts, step) : skipProblem(facts, step);
    if (refusal) throw new Failure(refusal.code, refusal);
    if (said.state === 'skipped' && said.reason === '') {
      throw new Failure('step-refused', {
        what: 'A step is skipped with a reason.',
        next: 'Say in a few words why.',
      });
    }
  }
  await db.transaction(async (tx) => {
    await tx
      .delete(ticketSteps)
      .where(and(eq(ticketSteps.ticketId, ticketId), eq(ticketSteps.step, step)));
    if (said.state !== 'open') {
      await tx.insert(ticketSteps).values({
        ticketId,
        step,
        state: said.state,
        reason: said.reason,
        by: technicianId,
        at: new Date(),
      });
    }
    const done = { done: 'done', skipped: 'skipped', open: 'opened again' }[said.state];
    const title = runSheet(facts).find((s) => s.id === step)?.title ?? step;
    await noteAudit(tx, {
      technicianId,
      ticketId,
      action: 'step-settled',
      what: `${title}: ${done}${said.reason ? `, ${said.reason}` : ''}.`,
    });
  });
}

/** @throws Failure `step-refused` while something is left to do on it. */
export async function closeTicket(
  db: Database,
  bench: BenchWatch,
  number: string,
  technicianId: string,
): Promise<void> {
  const { visit, facts } = await visitFacts(db, bench, number);
  const open = currentStep(runSheet(facts));
  if (open) {
    throw new Failure('step-refused', {
      what: `The ticket cannot be closed: “${open.title}” is ${open.state}.`,
      next: 'Settle every step first.',
    });
  }
  await db.transaction(async (tx) => {
    await tx.update(tickets).set({ closedAt: new Date() }).where(eq(tickets.id, visit.ticket.id));
    await noteAudit(tx, {
      technicianId,
      ticketId: visit.ticket.id,
      action: 'ticket-closed',
      what: 'Ticket closed.',
    });
  });
}
