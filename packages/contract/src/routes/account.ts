import { idSchema as id, pinProblem } from '@bright-cellar/core';
import { z } from 'zod';
import { accountSchema, savedViewSchema } from '../shapes/index.js';
import { route, nothing } from './define.js';
import { webAuthnOptions, webAuthnAnswer } from './passkeys.js';

export const accountRoutes = {
  endSession: route(
    'DELETE',
    '/api/account/sessions/:id',
    'own-account',
    'Sign out in another browser.',
    { params: z.object({ id }) },
    accountSchema,
  ),
  offerCode: route(
    'POST',
    '/api/account/code/offer',
    'own-account',
    'What codes are to be made of (RFC 6238), for one’s own device. In force once a code was typed.',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    z.object({ secret: z.string(), address: z.string(), picture: z.string() }),
  ),
  useCode: route(
    'PUT',
    '/api/account/code',
    'own-account',
    'Give codes from now on: with the first one.',
    { triesPassword: true, body: z.object({ code: z.string().trim().max(12) }) },
    accountSchema,
  ),
  dropCode: route(
    'POST',
    '/api/account/code/drop',
    'own-account',
    'Give no codes any more.',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    accountSchema,
  ),
  offerPasskey: route(
    'POST',
    '/api/account/passkeys/offer',
    'own-account',
    'What a browser is to make a passkey of (WebAuthn).',
    { triesPassword: true, body: z.object({ password: z.string().max(1024) }) },
    z.object({ options: webAuthnOptions }),
  ),
  addPasskey: route(
    'POST',
    '/api/account/passkeys',
    'own-account',
    'Sign in with this passkey from now on.',
    {
      body: z.object({
        name: z.string().trim().min(1, 'Give it a name.').max(60),
        answer: webAuthnAnswer,
      }),
    },
    accountSchema,
  ),
  dropPasskey: route(
    'DELETE',
    '/api/account/passkeys/:id',
    'own-account',
    'Sign in with it no longer.',
    { params: z.object({ id }) },
    accountSchema,
  ),
  setPin: route(
    'PUT',
    '/api/account/pin',
    'own-account',
    'A PIN for a quick change at the counter; empty for none.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().max(1024),
        pin: z.string().superRefine((pin, context) => {
          const message = pin === '' ? null : pinProblem(pin);
          if (message) context.addIssue({ code: 'custom', message });
        }),
      }),
    },
    accountSchema,
  ),
  account: route(
    'GET',
    '/api/account',
    'own-account',
    'Where one’s own account is signed in, and what happened to it lately.',
    {},
    accountSchema,
  ),
  endSessions: route(
    'DELETE',
    '/api/account/sessions',
    'own-account',
    'Sign out everywhere, here too.',
    {},
    nothing,
  ),
  changeOwnPassword: route(
    'POST',
    '/api/account/sign-in',
    'own-account',
    'Give one’s own account another password. Other browsers are signed out.',
    {
      triesPassword: true,
      body: z.object({
        password: z.string().min(1, 'Type your present password.').max(1024),
        newPassword: z.string().min(1, 'Type a new password.').max(1024),
      }),
    },
    accountSchema,
  ),
  savedViews: route(
    'GET',
    '/api/account/views',
    'own-account',
    'Searches in the list of archives that one wanted to have again.',
    {},
    z.array(savedViewSchema),
  ),
  saveView: route(
    'POST',
    '/api/account/views',
    'own-account',
    'Keep a search under a name; one of that name gives way to it.',
    { body: savedViewSchema.omit({ id: true }) },
    z.array(savedViewSchema),
  ),
  dropView: route(
    'DELETE',
    '/api/account/views/:id',
    'own-account',
    'Forget a search that was kept.',
    { params: z.object({ id: z.uuid() }) },
    z.array(savedViewSchema),
  ),
} as const;
