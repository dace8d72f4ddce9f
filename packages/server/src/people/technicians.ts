import { randomUUID } from 'node:crypto';
import { Failure } from '@bright-cellar/core';
import { and, eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { technicians } from '../database/schema.js';
import { hash, verify } from '../kernel/argon2.js';
import { noteOnly, type Acting } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { mustGiveCode } from './code.js';

/** OWASP's recommendation for Argon2id: 19 MiB, two passes, one lane. */
const ARGON2ID = { memoryCost: 19 * 1024, timeCost: 2, parallelism: 1 };

/** The hash of a password that nobody knows, as costly as any: makes an unknown name take as long as a known one. */
export const DECOY =
  '$argon2id$v=19$m=19456,t=2,p=1$QY+qbOi0k25LxzNf+AoLHg$efwu716bhZcI1WgXNtiFmLBL0u7YFN9GQYX6mbh02h0';

export const hashOf = (password: string): Promise<string> => hash(password, ARGON2ID);

/** Somebody who works here. */
export interface Technician {
  id: string;
  name: string;
  login: string;
  role: string;
}

export async function addTechnician(
  db: Pick<Database, 'insert'>,
  technician: { login: string; name: string; password: string; role: string },
): Promise<string> {
  const id = randomUUID();
  await db.insert(technicians).values({
    id,
    login: technician.login.toLowerCase(),
    name: technician.name,
    role: technician.role,
    passwordHash: await hashOf(technician.password),
    createdAt: new Date(),
  });
  return id;
}

/** Who it is that gives this name and password. @throws Failure `sign-in-refused`, without a hint whether the name exists. */
export async function verifyTechnician(
  db: Database,
  login: string,
  password: string,
): Promise<Technician> {
  const [found] = await db
    .select()
    .from(technicians)
    .where(and(eq(technicians.login, login.trim().toLowerCase()), isNull(technicians.leftAt)));
  const right = await verify(found?.passwordHash ?? DECOY, password);
  if (!found || !right) throw new Failure('sign-in-refused');
  const { id, name, role } = found;
  return { id, name, role, login: found.login };
}

/** That whoever is signed in knows their own password. @throws Failure `sign-in-refused`, which is on record */
export async function mustKnowPassword(context: Context, password: string): Promise<void> {
  const [own] = await context.db
    .select({ login: technicians.login })
    .from(technicians)
    .where(eq(technicians.id, context.actor.technicianId));
  try {
    await verifyTechnician(context.db, own?.login ?? '', password);
  } catch (error) {
    await noteOnly(context, {
      action: 'sign-in-refused',
      what: 'Something of their own sign-in was refused: the present password was wrong.',
    });
    throw error;
  }
}

/** Notes who signed in, and who tried to. @throws Failure `sign-in-refused`, `second-factor` */
export async function signIn(acting: Acting, login: string, password: string, code: string) {
  const { db } = acting;
  let technician: Awaited<ReturnType<typeof verifyTechnician>>;
  try {
    technician = await verifyTechnician(db, login, password);
  } catch (error) {
    const [known] = await db
      .select({ id: technicians.id })
      .from(technicians)
      .where(eq(technicians.login, login.trim().toLowerCase()));
    // What was typed in place of a name may be a password: it is not written down.
    await noteOnly(acting, {
      technicianId: known?.id ?? null,
      action: 'sign-in-refused',
      what: known
        ? 'Somebody tried to sign in with this name and another password.'
        : 'Somebody tried to sign in with a name that nobody has.',
    });
    throw error;
  }
  await giveCode(acting, technician.id, code);
  await db.update(technicians).set({ pinTries: 0 }).where(eq(technicians.id, technician.id));
  await noteOnly(acting, {
    technicianId: technician.id,
    action: 'sign-in',
    what: 'Signed in.',
  });
  return technician;
}

/** The password was right: a code that is wrong is on record. */
async function giveCode(acting: Acting, id: string, code: string): Promise<void> {
  const [row] = await acting.db
    .select({ id: technicians.id, totpSecret: technicians.totpSecret })
    .from(technicians)
    .where(eq(technicians.id, id));
  if (!row) return;
  try {
    await mustGiveCode(acting.db, row, code);
  } catch (error) {
    if (code !== '') {
      await noteOnly(acting, {
        technicianId: id,
        action: 'sign-in-refused',
        what: 'Somebody gave the right password and a wrong code.',
      });
    }
    throw error;
  }
}
