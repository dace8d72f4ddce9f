import { timingSafeEqual } from 'node:crypto';
import type { FirstVisit } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { sql } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { technicians } from '../database/schema.js';
import { mustBeStrong } from '../kernel/strong-password.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { addTechnician, type Technician } from '../people/index.js';
import { begin } from '../settings/index.js';

/** Whether somebody keeps this shop already. */
export async function isBegun(db: Pick<Database, 'select'>): Promise<boolean> {
  const [somebody] = await db.select({ id: technicians.id }).from(technicians).limit(1);
  return somebody !== undefined;
}

/**
 * Makes the first keeper of a shop, and gives it its name.
 * @param code what the start printed; null where nobody may begin a shop
 * @throws Failure `sign-in-refused` where the code is another or somebody was faster, `weak-password`
 */
export async function beginShop(
  acting: Acting,
  code: string | null,
  { code: given, shop, keeper }: FirstVisit,
): Promise<Technician> {
  if (code === null || !isSame(given, code)) {
    throw new Failure('sign-in-refused', {
      what: 'That is not the code that the start printed.',
      safe: 'Nothing was made.',
      next: 'Read it where the program was started. Each start prints another.',
    });
  }
  await mustBeStrong(keeper.password);
  return unitOfWork(acting, async (unit) => {
    // Two who press at once: the second waits here, and finds somebody.
    await unit.tx.execute(sql`select id from ${technicians} for update`);
    if (await isBegun(unit.tx)) {
      throw new Failure('sign-in-refused', {
        what: 'Somebody keeps this shop already.',
        safe: 'Nothing was changed.',
        next: 'Sign in, or ask them.',
      });
    }
    const id = await addTechnician(unit.tx, { ...keeper, role: 'keeper' });
    await begin(unit.tx, 'shop', shop);
    unit.note({ technicianId: id, action: 'shop-begun', what: 'The shop was begun.' });
    unit.changed('settings');
    return { id, name: keeper.name, login: keeper.login, role: 'keeper' };
  });
}

/** As it is read from a terminal: large or small letters, with or without strokes. */
const plain = (code: string) => Buffer.from(code.toLowerCase().replaceAll(/[^a-z0-9]/g, ''));

function isSame(given: string, code: string): boolean {
  const [one, other] = [plain(given), plain(code)];
  return one.length === other.length && timingSafeEqual(one, other);
}
