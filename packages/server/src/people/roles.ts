import { randomUUID } from 'node:crypto';
import type { RoleRow, RoleRules } from '@bright-cellar/contract';
import {
  alwaysAllowed,
  builtInRoles,
  Failure,
  permissionIds,
  type Permission,
  type Role,
} from '@bright-cellar/core';
import { and, asc, count, eq, isNull } from 'drizzle-orm';
import { isDuplicate, type Database, type Transaction } from '../database/connect.js';
import { roles, technicians } from '../database/schema.js';
import type { Actor } from '../kernel/actor.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';

type Reading = Pick<Database, 'select'>;

/** Every role there is: those of every shop first, then this one’s own by their names. */
export async function allRoles(db: Reading): Promise<Role[]> {
  const own = await db.select().from(roles).orderBy(asc(roles.name));
  return [...builtInRoles, ...own];
}

/** The same, with how many work here as each. */
export async function listRoles(db: Database): Promise<RoleRow[]> {
  const rows = await db
    .select({ role: technicians.role, people: count() })
    .from(technicians)
    .where(isNull(technicians.leftAt))
    .groupBy(technicians.role);
  const having = new Map(rows.map(({ role, people }) => [role, people]));
  return (await allRoles(db)).map(({ id, name, permissions }) => ({
    ...{ id: id, name, permissions: [...permissions] },
    builtIn: builtInRoles.some((role) => role.id === id),
    people: having.get(id) ?? 0,
  }));
}

/** @throws Failure `not-found` */
export async function roleOf(db: Reading, id: string): Promise<Role> {
  const found = (await allRoles(db)).find((role) => role.id === id);
  if (!found) throw new Failure('not-found');
  return found;
}

/**
 * Nobody hands out more than they have themselves, nor takes it from whoever has more.
 * @throws Failure `not-allowed`
 */
export function mustNotExceed(actor: Actor, permissions: readonly Permission[]): void {
  if (permissions.every((permission) => actor.may.includes(permission))) return;
  throw new Failure('not-allowed', {
    what: 'That role may do more than yours.',
    next: 'Ask a keeper.',
  });
}

/** In the order in which they are told, with what no role is without. */
const complete = (some: readonly Permission[]): Permission[] =>
  permissionIds.filter((one) => some.includes(one) || alwaysAllowed.includes(one));

/** @throws Failure `input-not-valid` where there is one of that name, `not-allowed` */
export function addRole(context: Context, { name, permissions }: RoleRules): Promise<void> {
  mustNotExceed(context.actor, permissions);
  return named(name, () =>
    unitOfWork(context, async (unit) => {
      await unit.tx
        .insert(roles)
        .values({ id: randomUUID(), name, permissions: complete(permissions) });
      unit.note({ action: 'role-added', what: `One can work here as ${name} from now on.` });
      unit.changed('account');
    }),
  );
}

/** @throws Failure `not-found`, `input-not-valid`, `not-allowed` */
export function changeRole(
  context: Context,
  id: string,
  { name, permissions }: RoleRules,
): Promise<void> {
  mustNotExceed(context.actor, permissions);
  return named(name, () =>
    unitOfWork(context, async (unit) => {
      const before = await ownRole(unit.tx, id);
      mustNotExceed(context.actor, before.permissions);
      await unit.tx
        .update(roles)
        .set({ name, permissions: complete(permissions) })
        .where(eq(roles.id, id));
      const called = before.name === name ? name : `${before.name}, now ${name},`;
      unit.note({ action: 'role-changed', what: `What ${called} may do was changed.` });
      unit.changed('account');
    }),
  );
}

/** @throws Failure `not-found`, `input-not-valid` where somebody here has it, `not-allowed` */
export async function dropRole(context: Context, id: string): Promise<void> {
  await unitOfWork(context, async (unit) => {
    const { name, permissions } = await ownRole(unit.tx, id);
    mustNotExceed(context.actor, permissions);
    const [having] = await unit.tx
      .select({ people: count() })
      .from(technicians)
      .where(and(eq(technicians.role, id), isNull(technicians.leftAt)));
    if ((having?.people ?? 0) > 0) {
      throw new Failure('input-not-valid', {
        what: `Somebody works here as ${name}.`,
        safe: 'Nothing was changed.',
        next: 'Give them another role first.',
      });
    }
    await unit.tx.delete(roles).where(eq(roles.id, id));
    unit.note({ action: 'role-dropped', what: `Nobody can work here as ${name} any more.` });
    unit.changed('account');
  });
}

async function ownRole(tx: Transaction, id: string) {
  const [found] = await tx.select().from(roles).where(eq(roles.id, id)).for('update');
  if (!found) throw new Failure('not-found');
  return found;
}

const taken = (name: string) =>
  new Failure('input-not-valid', {
    what: `There is a role called ${name} already.`,
    safe: 'Nothing was changed.',
    next: 'Choose another name.',
  });

async function named(name: string, work: () => Promise<void>): Promise<void> {
  const isBuiltIn = builtInRoles.some((role) => role.name.toLowerCase() === name.toLowerCase());
  if (isBuiltIn) throw taken(name);
  try {
    await work();
  } catch (error) {
    throw isDuplicate(error) ? taken(name) : error;
  }
}
