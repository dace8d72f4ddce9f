import { Failure, PIN_TRIES } from '@bright-cellar/core';
import { and, asc, eq, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { sessions, technicians } from '../database/schema.js';
import { verify } from '../kernel/argon2.js';
import { noteOnly, unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { hashOf, mustKnowPassword, type Technician } from './technicians.js';

/** A quick change of who stands at the counter: a short PIN, where somebody signed in in full today. */

/** Who has one that opens. */
export const whoHasPin = (db: Database) =>
  db
    .select({ id: technicians.id, name: technicians.name })
    .from(technicians)
    .where(
      and(
        ...[isNull(technicians.leftAt), isNotNull(technicians.pinHash)],
        lt(technicians.pinTries, PIN_TRIES),
      ),
    )
    .orderBy(asc(technicians.name))
    .limit(60);

/** @param pin empty for none @throws Failure `sign-in-refused` where the password is another */
export async function setPin(
  context: Context,
  { password, pin }: { password: string; pin: string },
): Promise<void> {
  await mustKnowPassword(context, password);
  const { technicianId } = context.actor;
  const pinHash = pin === '' ? null : await hashOf(pin);
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(technicians)
      .set({ pinHash, pinTries: 0 })
      .where(eq(technicians.id, technicianId));
    unit.note({
      action: 'pin-set',
      what: pin === '' ? 'Has no PIN for the counter any more.' : 'Chose a PIN for the counter.',
    });
    unit.changed('account', technicianId);
  });
}

/**
 * Who it is that gives this PIN. Each try is counted before it is looked at: many at once are no more than few.
 * @throws Failure `sign-in-refused`
 */
export async function personByPin(
  acting: Acting,
  technicianId: string,
  pin: string,
): Promise<Technician> {
  const { db } = acting;
  const [{ affectedRows }] = await db
    .update(technicians)
    .set({ pinTries: sql`${technicians.pinTries} + 1` })
    .where(
      and(
        ...[
          eq(technicians.id, technicianId),
          isNull(technicians.leftAt),
          isNotNull(technicians.pinHash),
        ],
        lt(technicians.pinTries, PIN_TRIES),
      ),
    );
  const [found] = await db.select().from(technicians).where(eq(technicians.id, technicianId));
  const isRight = affectedRows === 1 && found?.pinHash ? await verify(found.pinHash, pin) : false;
  if (!found || !isRight) {
    await noteOnly(acting, {
      technicianId: found?.id ?? null,
      action: 'sign-in-refused',
      what: 'Somebody tried a PIN at the counter, and it was wrong.',
    });
    throw new Failure('sign-in-refused', {
      what: 'That PIN opens nothing here.',
      next: `Try again, or sign in with name and password. After ${PIN_TRIES} wrong ones a PIN opens nothing until its holder did.`,
    });
  }
  await db.update(technicians).set({ pinTries: 0 }).where(eq(technicians.id, technicianId));
  const { id, name, login, role } = found;
  return { id, name, login, role };
}

/** Nothing is answered in this session until its holder says who they are. */
export async function lockSession({ db, actor, clock }: Context): Promise<void> {
  await db
    .update(sessions)
    .set({ lockedAt: clock.now() })
    .where(eq(sessions.tokenHash, actor.session ?? ''));
}

/** @throws Failure `sign-in-refused` */
export async function unlockSession(
  context: Context,
  { password, pin }: { password: string; pin: string },
): Promise<void> {
  const { technicianId, session } = context.actor;
  if (pin === '') await mustKnowPassword(context, password);
  else await personByPin(context, technicianId, pin);
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(sessions)
      .set({ lockedAt: null, usedAt: unit.now })
      .where(eq(sessions.tokenHash, session ?? ''));
    unit.note({
      action: 'unlocked',
      what: `Unlocked their screen${pin === '' ? '' : ' with their PIN'}.`,
    });
  });
}
