import type { Account } from '@bright-cellar/contract';
import { auditActionsOf, Failure } from '@bright-cellar/core';
import { and, desc, eq, gt, inArray, ne } from 'drizzle-orm';
import { audit, passkeys, sessions, technicians } from '../database/schema.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { hashOf, mustKnowPassword } from './technicians.js';
import { mustBeStrong } from '../kernel/strong-password.js';

const RECENT = 12;
const ofAccount = auditActionsOf('signing-in');

/** Where an account is signed in, what it signs in with, and what happened to it lately: also the tries that were refused. */
export async function accountView({ db, actor }: Pick<Context, 'db' | 'actor'>): Promise<Account> {
  const { technicianId } = actor;
  const [own, held, keys, recent] = await Promise.all([
    db.select().from(technicians).where(eq(technicians.id, technicianId)),
    db
      .select()
      .from(sessions)
      .where(and(eq(sessions.technicianId, technicianId), gt(sessions.expiresAt, new Date())))
      .orderBy(desc(sessions.createdAt)),
    db.select().from(passkeys).where(eq(passkeys.technicianId, technicianId)),
    db
      .select({ at: audit.at, what: audit.what, action: audit.action })
      .from(audit)
      .where(and(eq(audit.technicianId, technicianId), inArray(audit.action, [...ofAccount])))
      .orderBy(desc(audit.id))
      .limit(RECENT),
  ]);
  const shown = held.map(({ id, address, browser, createdAt, usedAt, lockedAt, tokenHash }) => ({
    ...{ id, address, browser, since: createdAt.toISOString() },
    usedAt: (usedAt ?? createdAt).toISOString(),
    ...{ current: tokenHash === actor.session, locked: lockedAt !== null },
  }));
  return {
    sessions: [
      ...shown.filter(({ current }) => current),
      ...shown.filter(({ current }) => !current),
    ],
    hasCode: own[0]?.totpSecret != null,
    hasPin: own[0]?.pinHash != null,
    passkeys: keys.map(({ id, name, createdAt, usedAt }) => ({
      ...{ id, name, createdAt: createdAt.toISOString() },
      usedAt: usedAt?.toISOString() ?? null,
    })),
    recent: recent.map(({ at, what, action }) => ({
      at: at.toISOString(),
      what,
      refused: action === 'sign-in-refused',
    })),
  };
}

/** Ends one of one’s own sessions. @returns what stood for it @throws Failure `not-found` */
export async function endOneSession(context: Context, id: string): Promise<string> {
  const which = and(eq(sessions.id, id), eq(sessions.technicianId, context.actor.technicianId));
  return unitOfWork(context, async (unit) => {
    const [found] = await unit.tx.select({ token: sessions.tokenHash }).from(sessions).where(which);
    if (!found) throw new Failure('not-found');
    await unit.tx.delete(sessions).where(which);
    unit.changed('account', context.actor.technicianId);
    unit.note({ action: 'sessions-ended', what: 'Signed out in another browser.' });
    return found.token;
  });
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
  await mustKnowPassword(context, password);
  await mustBeStrong(newPassword);
  const passwordHash = await hashOf(newPassword);
  await unitOfWork(context, async (unit) => {
    await unit.tx.update(technicians).set({ passwordHash }).where(eq(technicians.id, technicianId));
    unit.note({ action: 'own-password-changed', what: 'Changed their own password.' });
  });
  return endOwnSessions(context, session ?? '');
}
