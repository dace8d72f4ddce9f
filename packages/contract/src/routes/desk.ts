import {
  ticketNumberSchema as ticketNumber,
  backupPasswordSchema as backupPassword,
} from '@bright-cellar/core';
import { z } from 'zod';
import { deskActionIds } from '../shapes/index.js';
import { route, nothing } from './define.js';

const deskToken = z.string().regex(/^[A-Za-z0-9_-]{22}$/);

export const deskRoutes = {
  openDesk: route(
    'POST',
    '/api/tickets/:number/desk',
    'take-in',
    'Open a page on which the customer types the password by themselves.',
    {
      params: z.object({ number: ticketNumber }),
      /** The one thing that it is for: a password for a new archive, or that of one which is there. */
      body: z.object({ action: z.enum(deskActionIds).default('backup') }),
    },
    z.object({
      address: z.string(),
      /** A QR code of the address, as an SVG document. */
      code: z.string(),
      until: z.iso.datetime(),
    }),
  ),
  desk: route(
    'GET',
    '/api/tickets/:number/desk',
    'see',
    'Whether the customer has typed a password on their own page, or it is held for the proof, and until when.',
    { params: z.object({ number: ticketNumber }) },
    z.object({
      state: z.enum(['none', 'waiting', 'given', 'held']),
      until: z.iso.datetime().nullable(),
      action: z.enum(deskActionIds).nullable(),
      /** How often its page was opened, and by which signed-in technicians. */
      openings: z.int(),
      openedBy: z.array(z.string()),
    }),
  ),
  customerDesk: route(
    'GET',
    '/api/desk/:token',
    'anyone',
    'What the customer’s own page is about.',
    { params: z.object({ token: deskToken }) },
    z.object({
      shopName: z.string(),
      device: z.string(),
      action: z.enum(deskActionIds),
      until: z.iso.datetime(),
      /** It was opened before: by somebody else, unless the customer did so. */
      openings: z.int(),
      /** Whoever of the shop is signed in on the computer that it is or was opened on. */
      openedBy: z.array(z.string()),
    }),
  ),
  giveAtDesk: route(
    'POST',
    '/api/desk/:token',
    'anyone',
    'The customer’s password, from their own page.',
    {
      params: z.object({ token: deskToken }),
      body: z.object({ password: backupPassword, reminder: z.string().trim().max(200) }),
    },
    nothing,
  ),
} as const;
