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
import { and, eq, isNull } from 'drizzle-orm';
import { agreements, schedules, ticketSteps, tickets } from '../database/schema.js';
import { archivesOfTicket } from '../archives/index.js';
import { withdrawConsent, withdrawOwed } from '../escrow/index.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { ticketForWork, visitFacts } from './visits.js';

/** What the customer said now, for or against. */
export async function noteAgreement(
  context: Context,
  number: string,
  said: { kind: AgreementKind; given: boolean; days: number | null },
): Promise<void> {
  const { ticket, device } = await ticketForWork(context.db, number);
  const takenBack = said.kind === 'escrow' && !said.given;
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .insert(agreements)
      .values({ ...said, ticketId: ticket.id, by: context.actor.technicianId, at: unit.now });
    if (said.kind === 'keep') {
      for (const id of await archivesOfTicket(unit.tx, ticket.id)) unit.changed('archive', id);
    }
    if (takenBack) await withdrawConsent(unit, device.id);
    const days = said.days === null ? '' : ` for ${said.days} days`;
    unit.changed('ticket', number);
    unit.note({
      ticketId: ticket.id,
      action: 'agreement',
      what: `${agreementNames[said.kind]}${days}: ${said.given ? 'the customer agreed' : 'the customer did not agree, or took it back'}.`,
    });
  });
  if (takenBack) await withdrawOwed(context);
}

/** Somebody's word about a step, where the run sheet's rules allow it. @throws Failure `step-refused` */
export async function settleStep(
  context: Context,
  number: string,
  step: StepId,
  said: { state: 'done' | 'skipped' | 'open'; reason: string },
): Promise<void> {
  const { visit, facts } = await visitFacts(context, number);
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
  await unitOfWork(context, async (unit) => {
    const { tx } = unit;
    await tx
      .delete(ticketSteps)
      .where(and(eq(ticketSteps.ticketId, ticketId), eq(ticketSteps.step, step)));
    if (said.state !== 'open') {
      await tx.insert(ticketSteps).values({
        ticketId,
        step,
        state: said.state,
        reason: said.reason,
        by: context.actor.technicianId,
        at: unit.now,
      });
    }
    const done = { done: 'done', skipped: 'skipped', open: 'opened again' }[said.state];
    const title = runSheet(facts).find((s) => s.id === step)?.title ?? step;
    unit.changed('ticket', number);
    unit.note({
      ticketId,
      action: 'step-settled',
      what: `${title}: ${done}${said.reason ? `, ${said.reason}` : ''}.`,
    });
  });
}

/** @throws Failure `step-refused` while something is left to do on it. */
export async function closeTicket(context: Context, number: string): Promise<void> {
  const { visit, facts } = await visitFacts(context, number);
  const open = currentStep(runSheet(facts));
  if (open) {
    throw new Failure('step-refused', {
      what: `The ticket cannot be closed: “${open.title}” is ${open.state}.`,
      next: 'Settle every step first.',
    });
  }
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(tickets)
      .set({ closedAt: unit.now })
      .where(eq(tickets.id, visit.ticket.id));
    // Nobody is signed in anywhere for a visit that is over.
    await unit.tx
      .delete(schedules)
      .where(and(eq(schedules.ticketId, visit.ticket.id), eq(schedules.takes, 'sync')));
    unit.changed('schedule');
    // From now on the days run for which it is kept.
    for (const id of await archivesOfTicket(unit.tx, visit.ticket.id)) unit.changed('archive', id);
    unit.changed('ticket', number);
    unit.changed('ticket');
    unit.note({
      ticketId: visit.ticket.id,
      action: 'ticket-closed',
      what: 'Ticket closed.',
    });
  });
}

/**
 * The customer is back with the same matter: the days for which it is kept run no more until it is closed again.
 * @throws Failure `step-refused` where it is open, or the device has another that is
 */
export async function reopenTicket(context: Context, number: string): Promise<void> {
  const { ticket } = await ticketForWork(context.db, number);
  await unitOfWork(context, async (unit) => {
    const open = await unit.tx
      .select({ number: tickets.number })
      .from(tickets)
      .where(and(eq(tickets.deviceId, ticket.deviceId), isNull(tickets.closedAt)))
      .for('update');
    const [other] = open;
    if (other) {
      throw new Failure('step-refused', {
        what:
          other.number === number
            ? 'The ticket is open.'
            : `The device has an open ticket already: ${other.number}.`,
        next: other.number === number ? 'Go on with it.' : `Go on with ticket ${other.number}.`,
      });
    }
    await unit.tx.update(tickets).set({ closedAt: null }).where(eq(tickets.id, ticket.id));
    for (const id of await archivesOfTicket(unit.tx, ticket.id)) unit.changed('archive', id);
    unit.changed('ticket', number);
    unit.changed('ticket');
    unit.note({ ticketId: ticket.id, action: 'ticket-reopened', what: 'Ticket opened again.' });
  });
}
