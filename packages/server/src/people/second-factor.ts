import { eq } from 'drizzle-orm';
import { Secret } from 'otpauth';
import type { Database } from '../database/connect.js';
import { passkeys, technicians } from '../database/schema.js';
import { sealSecret } from '../kernel/installation.js';
import { qrCode } from '../kernel/qr-code.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { codesOf, stepOf, wrongCode } from './code.js';
import { OnOffer } from './on-offer.js';
import { mustKnowPassword } from './technicians.js';

const offered = new OnOffer<string>();

export async function hasSecondFactor(db: Database, technicianId: string): Promise<boolean> {
  const [own] = await db
    .select({ totp: technicians.totpSecret })
    .from(technicians)
    .where(eq(technicians.id, technicianId));
  if (own?.totp) return true;
  const keys = await db.$count(passkeys, eq(passkeys.technicianId, technicianId));
  return keys > 0;
}

/** What codes are to be made of, for one’s own device. In force once a code was typed. @throws Failure `sign-in-refused` */
export async function offerCode(context: Context, password: string) {
  await mustKnowPassword(context, password);
  const { technicianId, name } = context.actor;
  const secret = new Secret({ size: 20 }).base32;
  offered.put(technicianId, secret);
  const address = codesOf(secret, name).toString();
  return { secret, address, picture: await qrCode(address) };
}

/** @throws Failure `second-factor` where the code is another, or nothing was offered */
export async function useCode(context: Context, code: string): Promise<void> {
  const { technicianId } = context.actor;
  const secret = offered.get(technicianId);
  const step = secret === null ? null : stepOf(secret, code);
  if (secret === null || step === null) throw wrongCode();
  offered.take(technicianId);
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(technicians)
      .set({ totpSecret: sealSecret(secret), totpUsed: step })
      .where(eq(technicians.id, technicianId));
    unit.note({
      action: 'second-factor-set',
      what: 'Gives a code from their own device from now on.',
    });
    unit.changed('account', technicianId);
  });
}

/** @throws Failure `sign-in-refused` */
export async function dropCode(context: Context, password: string): Promise<void> {
  await mustKnowPassword(context, password);
  const { technicianId } = context.actor;
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .update(technicians)
      .set({ totpSecret: null })
      .where(eq(technicians.id, technicianId));
    unit.note({ action: 'second-factor-dropped', what: 'Gives no code any more.' });
    unit.changed('account', technicianId);
  });
}
