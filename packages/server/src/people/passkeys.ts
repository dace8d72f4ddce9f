import { createHash, randomUUID } from 'node:crypto';
import { isIP } from 'node:net';
import type { AuthenticationResponseJSON, RegistrationResponseJSON } from '@simplewebauthn/server';
import { Failure } from '@bright-cellar/core';
import { and, eq, isNull } from 'drizzle-orm';
import type { Request } from 'express';
import { passkeys, technicians } from '../database/schema.js';
import { noteOnly, unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import type { Context } from '../shop.js';
import { OnOffer } from './on-offer.js';
import { mustKnowPassword, type Technician } from './technicians.js';

/** Loading it takes a fifth of the server's start: it is loaded when somebody uses a passkey. */
const webAuthn = () => import('@simplewebauthn/server');

/** Challenges that were asked for (W3C WebAuthn), by whoever asked; of a sign-in, by a name that only that browser knows. */
const toAdd = new OnOffer<string>();
const toSignIn = new OnOffer<string>();

const digestOf = (credentialId: string) => createHash('sha256').update(credentialId).digest('hex');

/** Whom a passkey is for: the name under which the program is open there. @throws Failure `input-not-valid` under an address */
function partyOf(request: Request): { rpID: string; origin: string } {
  const origin = `${request.secure ? 'https' : 'http'}://${request.headers.host ?? ''}`;
  const { hostname } = new URL(origin);
  if (isIP(hostname.replaceAll(/[[\]]/g, '')) > 0) {
    throw new Failure('input-not-valid', {
      what: 'A passkey is for a name, and this page is open under an address.',
      safe: 'Nothing was changed.',
      next: 'Open it as http://localhost on this computer, or under its name over TLS.',
    });
  }
  return { rpID: hostname, origin };
}

/** @throws Failure `sign-in-refused`, `input-not-valid` */
export async function offerPasskey(context: Context, request: Request, password: string) {
  await mustKnowPassword(context, password);
  const { technicianId, name } = context.actor;
  const { rpID } = partyOf(request);
  const own = await context.db
    .select()
    .from(passkeys)
    .where(eq(passkeys.technicianId, technicianId));
  const { generateRegistrationOptions } = await webAuthn();
  const options = await generateRegistrationOptions({
    ...{ rpName: 'Bright Cellar', rpID, userName: name, userDisplayName: name },
    userID: new TextEncoder().encode(technicianId),
    attestationType: 'none',
    excludeCredentials: own.map(({ credentialId }) => ({ id: credentialId })),
    authenticatorSelection: { residentKey: 'required', userVerification: 'required' },
  });
  toAdd.put(technicianId, options.challenge);
  return { options: { ...options } };
}

/** @throws Failure `second-factor` where it is not what was asked for */
export async function addPasskey(
  context: Context,
  request: Request,
  { name, answer }: { name: string; answer: unknown },
): Promise<void> {
  const { technicianId } = context.actor;
  const { rpID, origin } = partyOf(request);
  const expectedChallenge = toAdd.take(technicianId);
  if (expectedChallenge === null) throw refused();
  const { verifyRegistrationResponse } = await webAuthn();
  const { verified, registrationInfo } = await verifyRegistrationResponse({
    ...{ response: answer as RegistrationResponseJSON, expectedChallenge },
    ...{ expectedOrigin: origin, expectedRPID: rpID, requireUserVerification: true },
  }).catch((error: unknown) => {
    throw refused(error);
  });
  if (!verified) throw refused();
  const { id: credentialId, publicKey, counter } = registrationInfo.credential;
  await unitOfWork(context, async (unit) => {
    await unit.tx.insert(passkeys).values({
      ...{ id: randomUUID(), technicianId, name, counter, createdAt: unit.now },
      ...{ credentialId, credentialHash: digestOf(credentialId) },
      publicKey: Buffer.from(publicKey).toString('base64url'),
    });
    unit.note({ action: 'passkey-added', what: `Signs in with the passkey ${name} too.` });
    unit.changed('account', technicianId);
  });
}

/** @throws Failure `not-found` */
export async function dropPasskey(context: Context, id: string): Promise<void> {
  const { technicianId } = context.actor;
  await unitOfWork(context, async (unit) => {
    const which = and(eq(passkeys.id, id), eq(passkeys.technicianId, technicianId));
    const [found] = await unit.tx.select({ name: passkeys.name }).from(passkeys).where(which);
    if (!found) throw new Failure('not-found');
    await unit.tx.delete(passkeys).where(which);
    unit.note({
      action: 'passkey-dropped',
      what: `Signs in with the passkey ${found.name} no longer.`,
    });
    unit.changed('account', technicianId);
  });
}

export async function askForPasskey(request: Request) {
  const { rpID } = partyOf(request);
  const { generateAuthenticationOptions } = await webAuthn();
  const options = await generateAuthenticationOptions({ rpID, userVerification: 'required' });
  const ask = randomUUID();
  toSignIn.put(ask, options.challenge);
  return { ask, options: { ...options } };
}

/** Who it is that signed what was asked for. @throws Failure `sign-in-refused` */
export async function signInByPasskey(
  acting: Acting,
  request: Request,
  { ask, answer }: { ask: string; answer: { id: string } },
): Promise<Technician> {
  const { db } = acting;
  const { rpID, origin } = partyOf(request);
  const expectedChallenge = toSignIn.take(ask);
  const [found] = await db
    .select({ key: passkeys, technician: technicians })
    .from(passkeys)
    .innerJoin(technicians, eq(technicians.id, passkeys.technicianId))
    .where(and(eq(passkeys.credentialHash, digestOf(answer.id)), isNull(technicians.leftAt)));
  if (!found || expectedChallenge === null) throw notKnown();
  const { key, technician } = found;
  const { verifyAuthenticationResponse } = await webAuthn();
  const { verified, authenticationInfo } = await verifyAuthenticationResponse({
    ...{ response: answer as AuthenticationResponseJSON, expectedChallenge },
    ...{ expectedOrigin: origin, expectedRPID: rpID, requireUserVerification: true },
    credential: {
      ...{ id: key.credentialId, counter: key.counter },
      publicKey: new Uint8Array(Buffer.from(key.publicKey, 'base64url')),
    },
  }).catch((error: unknown) => {
    throw notKnown(error);
  });
  if (!verified) throw notKnown();
  await db
    .update(passkeys)
    .set({ counter: authenticationInfo.newCounter, usedAt: acting.clock.now() })
    .where(eq(passkeys.id, key.id));
  await noteOnly(acting, {
    technicianId: technician.id,
    action: 'sign-in',
    what: `Signed in with the passkey ${key.name}.`,
  });
  const { id, name, login, role } = technician;
  return { id, name, login, role };
}

const refused = (cause?: unknown) =>
  new Failure(
    'second-factor',
    { what: 'The passkey could not be made.', next: 'Try again from the beginning.' },
    { cause },
  );
const notKnown = (cause?: unknown) =>
  new Failure(
    'sign-in-refused',
    { what: 'That passkey opens nothing here.', next: 'Sign in with name and password.' },
    { cause },
  );
