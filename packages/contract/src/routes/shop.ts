import { networkRulesSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { findingSchema, networkSchema, savesSchema, shopSettingsSchema } from '../shapes/index.js';
import { route } from './define.js';

/** Base64; null where there is none. */
const logo = z.object({ png: z.string().nullable() });

export const shopRoutes = {
  condition: route(
    'GET',
    '/api/condition',
    'see',
    'How the installation is: a line for each thing that can go wrong, the worst first.',
    {},
    z.array(findingSchema),
  ),
  network: route(
    'GET',
    '/api/network',
    'house-rules',
    'How other computers and customers’ own phones reach the program.',
    {},
    networkSchema,
  ),
  changeNetwork: route(
    'PUT',
    '/api/network',
    'house-rules',
    'Be reached otherwise from now on, without a restart.',
    { body: networkRulesSchema },
    networkSchema,
  ),
  giveCertificate: route(
    'PUT',
    '/api/network/certificate',
    'house-rules',
    'A certificate for TLS and its key, as PEM. Used where the mode is `given`.',
    { body: z.object({ cert: z.string().max(30_000), key: z.string().max(20_000) }) },
    networkSchema,
  ),
  saves: route(
    'GET',
    '/api/saves',
    'see',
    'How the catalogue is saved: what to, and when last onto which rack.',
    {},
    savesSchema,
  ),
  saveCatalogue: route(
    'POST',
    '/api/saves',
    'look-after-racks',
    'Save the catalogue now, sealed, onto every rack that is here.',
    {},
    savesSchema,
  ),
  offerRecoveryKey: route(
    'POST',
    '/api/saves/key/offer',
    'house-rules',
    'Make a recovery key. It is told once, and nothing of it is kept.',
    {},
    z.object({ recipient: z.string(), identity: z.string() }),
  ),
  useRecoveryKey: route(
    'PUT',
    '/api/saves/key',
    'house-rules',
    'Seal saves to a recovery key from now on.',
    {
      body: z.object({
        recipient: z.string().regex(/^age1[a-z0-9]{50,80}$/, 'That is no recipient.'),
      }),
    },
    savesSchema,
  ),
  settings: route(
    'GET',
    '/api/settings',
    'see',
    'What the shop decided once for everybody.',
    {},
    shopSettingsSchema,
  ),
  saveSettings: route(
    'PUT',
    '/api/settings',
    'house-rules',
    'Change what the shop decided.',
    { body: shopSettingsSchema },
    shopSettingsSchema,
  ),
  logo: route('GET', '/api/logo', 'see', 'The picture on the shop’s papers, PNG.', {}, logo),
  giveLogo: route(
    'POST',
    '/api/logo',
    'house-rules',
    'Give the shop a picture for its papers: PNG, JPEG or WebP. It is drawn anew.',
    { isLong: true, body: z.object({ image: z.base64().max(7_000_000) }) },
    logo,
  ),
  dropLogo: route(
    'DELETE',
    '/api/logo',
    'house-rules',
    'Take the picture off the shop’s papers.',
    {},
    logo,
  ),
  openApi: route('GET', '/api/openapi.json', 'anyone', 'This document.', {}, z.unknown()),
} as const;
