import { Failure } from '@bright-cellar/core';
import { and, eq, lt } from 'drizzle-orm';
import { Secret, TOTP } from 'otpauth';
import type { Database } from '../database/connect.js';
import { technicians } from '../database/schema.js';
import { openSecret } from '../kernel/installation.js';

const STEP_S = 30;
/** A device’s clock may be half a minute off. */
const WINDOW = 1;

/** RFC 6238 with what every such application on a device can do: SHA-1, six digits, half a minute. */
export const codesOf = (secret: string, label = '') =>
  new TOTP({
    ...{ issuer: 'Bright Cellar', label, algorithm: 'SHA1', digits: 6, period: STEP_S },
    secret: Secret.fromBase32(secret),
  });

/**
 * That a code is right, and was not used before: also where two give it at once.
 * @throws Failure `second-factor`
 */
export async function mustGiveCode(
  db: Database,
  { id, totpSecret }: { id: string; totpSecret: string | null },
  code: string,
): Promise<void> {
  if (totpSecret === null) return;
  if (code === '') throw new Failure('second-factor');
  const step = stepOf(openSecret(totpSecret), code);
  if (step === null) throw wrongCode();
  const [{ affectedRows }] = await db
    .update(technicians)
    .set({ totpUsed: step })
    .where(and(eq(technicians.id, id), lt(technicians.totpUsed, step)));
  if (affectedRows !== 1) throw wrongCode();
}

export const wrongCode = () =>
  new Failure('second-factor', {
    what: 'That code is not right, or was used already.',
    next: 'Type the six digits that the device shows now; a new one comes every half minute.',
  });

/** The half minute of which a code is; null where it is of none near now. */
export function stepOf(secret: string, code: string): number | null {
  const token = code.replaceAll(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return null;
  const delta = codesOf(secret).validate({ token, window: WINDOW });
  return delta === null ? null : Math.floor(Date.now() / 1000 / STEP_S) + delta;
}
