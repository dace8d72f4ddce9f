import type { Account } from '@bright-cellar/contract';
import type { AuditAction } from '@bright-cellar/core';
import { and, count, desc, eq, inArray, ne } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { audit, sessions, technicians } from '../database/schema.js';
import { noteOnly, unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { hashOf, verifyTechnician } from './technicians.js';
import { mustBeStrong } from '../kernel/strong-password.js';

const RECENT = 12;
const ofAccount: AuditAction[] = [
  'sign-in',
  'sign-in-refused',
  'sign-out',
  'sessions-ended',
  'own-password-changed',
];

/** Where an account is signed in, and what happened to it lately: also the tries that were refused. */
export async function accountView(db: Database, technicianId: string): Promise<Account> {
  const [held] = await db
    .select({ sessions: count() })
    .from(sessions)
    .where(eq(sessions.technicianId, technicianId));
  const recent = await db
    .select({ at: audit.at, what: audit.what, action: audit.action })
    .from(audit)
    .where(and(eq(audit.technicianId, technicianId), inArray(audit.action, ofAccount)))
    .orderBy(desc(audit.id))
    .limit(RECENT);
  return {
    sessions: held?.sessions ?? 0,
    recent: recent.map(({ at, what, action }) => ({
      at: at.toISOString(),
      what,
      refused: action === 'sign-in-refused',
    })),
  };
}

/** Ends every session of an account, or every other. @returns what stood for them, so that who listens is told */
export async function endOwnSessions(context: Context, except = ''): Promise<string[]> {
  const { technicianId } = context.actor;
  const which = and(eq(sessions.technicianId, technicianId), ne(sessions.tokenHash, except));
  return unitOfWork(context, async (unit) => {
    const { tx } = unit;
    const ended = await tx.select({ token: sessions.tokenHash }).from(sessions).where(which);
    await tx.delete(sessions).where(which);
    unit.changed('account', technicianId);
    unit.note({
      action: 'sessions-ended',
      what: `Signed out everywhere${except === '' ? '' : ' else'}.`,
    });
    return ended.map(({ token }) => token);
  });
}

/**
 * Gives an account another password. Whoever is signed in with the old one elsewhere is signed out.
 * @returns what stood for the sessions that ended
 * @throws Failure `sign-in-refused` where the present password is another, `weak-password`
 */
export async function changeOwnPassword(
  context: Context,
  { password, newPassword }: { password: string; newPassword: string },
): Promise<string[]> {
  const { technicianId, session } = context.actor;
  const [own] = await context.db
    .select({ login: technicians.login })
    .from(technicians)
    .where(eq(technicians.id, technicianId));
  try {
    await verifyTechnician(context.db, own?.login ?? '', password);
  } catch (error) {
    await noteOnly(context, {
      action: 'sign-in-refused',
      what: 'A change of the password was refused: the present one was wrong.',
    });
    throw error;
  }
  await mustBeStrong(newPassword);
  const passwordHash = await hashOf(newPassword);
  await unitOfWork(context, async (unit) => {
    await unit.tx.update(technicians).set({ passwordHash }).where(eq(technicians.id, technicianId));
    unit.note({ action: 'own-password-changed', what: 'Changed their own password.' });
  });
  return endOwnSessions(context, session ?? '');
}
