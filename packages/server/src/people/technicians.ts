import { randomUUID } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { Failure } from '@bright-cellar/core';
import { and, eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { technicians } from '../database/schema.js';
import { noteOnly, type Acting } from '../kernel/unit-of-work.js';

/** OWASP's recommendation for Argon2id: 19 MiB, two passes, one lane. */
const ARGON2ID = { memoryCost: 19 * 1024, timeCost: 2, parallelism: 1 };

/** A hash of nothing anybody knows: makes an unknown name take as long as a known one. */
let decoy: Promise<string> | null = null;

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
  decoy ??= hashOf(randomUUID());
  const right = await verify(found?.passwordHash ?? (await decoy), password);
  if (!found || !right) throw new Failure('sign-in-refused');
  const { id, name, role } = found;
  return { id, name, role, login: found.login };
}

/** Notes who signed in, and who tried to. @throws Failure `sign-in-refused` */
export async function signIn(acting: Acting, login: string, password: string) {
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
  await noteOnly(acting, {
    technicianId: technician.id,
    action: 'sign-in',
    what: 'Signed in.',
  });
  return technician;
}
