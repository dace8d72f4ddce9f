import type { BodyOf, PersonRow, routes } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { and, asc, count, eq, isNull, ne, sql } from 'drizzle-orm';
import { isDuplicate, type Database, type Transaction } from '../database/connect.js';
import { passkeys, sessions, technicians } from '../database/schema.js';
import { mustBeStrong } from '../kernel/strong-password.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { allRoles, mustNotExceed, roleOf } from './roles.js';
import { addTechnician, hashOf } from './technicians.js';

/** Who works here, and then who did; by their names. */
export async function listPeople(db: Database): Promise<PersonRow[]> {
  const rows = await db
    .select({
      person: technicians,
      seenAt: sql<Date | null>`max(coalesce(${sessions.usedAt}, ${sessions.createdAt}))`.mapWith(
        sessions.createdAt,
      ),
    })
    .from(technicians)
    .leftJoin(sessions, eq(sessions.technicianId, technicians.id))
    .groupBy(technicians.id)
    .orderBy(sql`${technicians.leftAt} is not null`, asc(technicians.name));
  return rows.map(({ person: { id, name, login, role, createdAt, leftAt }, seenAt }) => ({
    ...{ id, name, login, role: role, since: createdAt.toISOString() },
    ...{ seenAt: told(seenAt), leftAt: told(leftAt) },
  }));
}

const told = (at: Date | null) => at?.toISOString() ?? null;

/** @throws Failure `input-not-valid` where somebody signs in with that name, `weak-password` */
export async function addPerson(
  context: Context,
  body: BodyOf<typeof routes.addPerson>,
): Promise<void> {
  await mustBeStrong(body.password);
  try {
    await unitOfWork(context, async (unit) => {
      const role = await roleOf(unit.tx, body.role);
      mustNotExceed(context.actor, role.permissions);
      await addTechnician(unit.tx, body);
      unit.note({
        action: 'person-added',
        what: `${body.name} works here from now on, as a ${role.name.toLowerCase()}.`,
      });
      unit.changed('account');
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw new Failure('input-not-valid', {
      what: `Somebody signs in as “${body.login}” already, or did.`,
      next: 'Choose another name to sign in with.',
    });
  }
}

/** @throws Failure `not-found`, `input-not-valid` where nobody would keep the shop */
export async function changePerson(
  context: Context,
  id: string,
  { name, role }: BodyOf<typeof routes.changePerson>,
): Promise<void> {
  await unitOfWork(context, async (unit) => {
    const before = await changeable(context, unit.tx, id);
    const { permissions, name: roleName } = await roleOf(unit.tx, role);
    mustNotExceed(context.actor, permissions);
    if (role !== 'keeper') await mustStayKept(unit.tx, id);
    await unit.tx.update(technicians).set({ name, role }).where(eq(technicians.id, id));
    const named = before.name === name ? name : `${before.name}, now ${name},`;
    unit.note({
      action: 'person-changed',
      what: `${named} is a ${roleName.toLowerCase()} from now on.`,
    });
    unit.changed('account', id);
  });
}

/**
 * They work here no longer: they cannot sign in, and are signed out.
 * @returns what stood for their sessions, so that who listens is told
 * @throws Failure `not-found`, `input-not-valid` where nobody would keep the shop
 */
export async function leave(context: Context, id: string): Promise<string[]> {
  return unitOfWork(context, async (unit) => {
    const { tx } = unit;
    const { name } = await changeable(context, tx, id);
    await mustStayKept(tx, id);
    const ended = await endSessionsOf(tx, id);
    await tx.update(technicians).set({ leftAt: unit.now }).where(eq(technicians.id, id));
    unit.note({ action: 'person-left', what: `${name} works here no longer.` });
    unit.changed('account', id);
    return ended;
  });
}

/**
 * Another first password, for somebody who forgot theirs. Whoever is signed in with the old one is signed out.
 * @returns what stood for their sessions
 * @throws Failure `not-found`, `weak-password`
 */
export async function givePassword(
  context: Context,
  id: string,
  password: string,
): Promise<string[]> {
  await mustBeStrong(password);
  const passwordHash = await hashOf(password);
  return unitOfWork(context, async (unit) => {
    const { name } = await changeable(context, unit.tx, id);
    // Whoever lost their device too starts anew: code and PIN go with the password.
    await unit.tx
      .update(technicians)
      .set({ passwordHash, totpSecret: null, pinHash: null })
      .where(eq(technicians.id, id));
    await unit.tx.delete(passkeys).where(eq(passkeys.technicianId, id));
    unit.note({ action: 'person-changed', what: `${name} was given another password.` });
    unit.changed('account', id);
    return endSessionsOf(unit.tx, id);
  });
}

/**
 * Signs somebody out everywhere: a screen that was left open, a device that was lost.
 * @returns what stood for their sessions
 * @throws Failure `not-found`, `not-allowed`
 */
export async function signOutPerson(context: Context, id: string): Promise<string[]> {
  return unitOfWork(context, async (unit) => {
    const { name } = await changeable(context, unit.tx, id);
    unit.note({ action: 'sessions-ended', what: `${name} was signed out everywhere.` });
    unit.changed('account', id);
    return endSessionsOf(unit.tx, id);
  });
}

async function endSessionsOf(tx: Transaction, technicianId: string): Promise<string[]> {
  const own = eq(sessions.technicianId, technicianId);
  const ended = await tx.select({ token: sessions.tokenHash }).from(sessions).where(own);
  await tx.delete(sessions).where(own);
  return ended.map(({ token }) => token);
}

async function present(tx: Transaction, id: string) {
  const [found] = await tx
    .select()
    .from(technicians)
    .where(and(eq(technicians.id, id), isNull(technicians.leftAt)))
    .for('update');
  if (!found) throw new Failure('not-found');
  return found;
}

/** Somebody who is here, and may do no more than whoever changes something of them. @throws Failure `not-found`, `not-allowed` */
async function changeable({ actor }: Context, tx: Transaction, id: string) {
  const found = await present(tx, id);
  // One whose role is no more may do nothing.
  const role = (await allRoles(tx)).find((one) => one.id === found.role);
  mustNotExceed(actor, role?.permissions ?? []);
  return found;
}

/** A shop that nobody keeps could not be put right from inside. */
async function mustStayKept(tx: Transaction, without: string): Promise<void> {
  // Two keepers who let each other go at once wait for each other here.
  await tx.select({ id: technicians.id }).from(technicians).for('update');
  const [others] = await tx
    .select({ keepers: count() })
    .from(technicians)
    .where(
      and(
        ...[eq(technicians.role, 'keeper'), isNull(technicians.leftAt)],
        ne(technicians.id, without),
      ),
    );
  if ((others?.keepers ?? 0) > 0) return;
  throw new Failure('input-not-valid', {
    what: 'Nobody else keeps this shop.',
    safe: 'Nothing was changed.',
    next: 'Make somebody else a keeper first.',
  });
}
