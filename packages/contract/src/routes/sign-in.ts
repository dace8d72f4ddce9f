import { idSchema as id } from '@bright-cellar/core';
import { z } from 'zod';
import { firstVisitSchema, sessionSchema } from '../shapes/index.js';
import { route, nothing } from './define.js';
import { webAuthnOptions, webAuthnAnswer } from './passkeys.js';

export const signInRoutes = {
  setUp: route(
    'GET',
    '/api/set-up',
    'anyone',
    'Whether nobody keeps this shop yet.',
    {},
    z.object({ needed: z.boolean() }),
  ),
  beginShop: route(
    'POST',
    '/api/set-up',
    'anyone',
    'The first visit: makes the first keeper, with the code that the start printed, and signs them in.',
    { body: firstVisitSchema },
    sessionSchema,
  ),
  signIn: route(
    'POST',
    '/api/session',
    'anyone',
    'Sign in. Sets the session cookie.',
    {
      body: z.object({
        login: z.string().min(1, 'Type your name.').max(60),
        password: z.string().min(1, 'Type your password.').max(1024),
        /** Six digits from their own device, where the account gives them. */
        code: z.string().trim().max(12).default(''),
      }),
    },
    sessionSchema,
  ),
  passkeyAsk: route(
    'POST',
    '/api/session/passkey/ask',
    'anyone',
    'What a browser is to have signed with a passkey (WebAuthn).',
    {},
    z.object({ ask: z.string(), options: webAuthnOptions }),
  ),
  passkeySignIn: route(
    'POST',
    '/api/session/passkey',
    'anyone',
    'Sign in with a passkey: it counts for password and code together.',
    { body: z.object({ ask: z.string().max(60), answer: webAuthnAnswer }) },
    sessionSchema,
  ),
  atThisCounter: route(
    'GET',
    '/api/session/counter',
    'anyone',
    'Who can take this screen over with a PIN: only where somebody signed in in full today.',
    {},
    z.array(z.object({ id, name: z.string() })),
  ),
  takeOver: route(
    'POST',
    '/api/session/counter',
    'anyone',
    'Sign in with a PIN, on a computer on which somebody signed in in full today. Who was signed in there is signed out.',
    { body: z.object({ technicianId: id, pin: z.string().max(10) }) },
    sessionSchema,
  ),
  lockSession: route(
    'POST',
    '/api/session/lock',
    'own-account',
    'Lock this screen: nothing is answered until it is unlocked.',
    {},
    nothing,
  ),
  unlockSession: route(
    'POST',
    '/api/session/unlock',
    'own-account',
    'Unlock it, with one’s own password or PIN.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().max(1024).default(''),
        pin: z.string().max(10).default(''),
      }),
    },
    sessionSchema,
  ),
  session: route(
    'GET',
    '/api/session',
    'anyone',
    'Who is signed in; null when nobody is.',
    {},
    sessionSchema.nullable(),
  ),
  signOut: route(
    'DELETE',
    '/api/session',
    'own-account',
    'Sign out. The session ends everywhere at once.',
    {},
    nothing,
  ),
} as const;
