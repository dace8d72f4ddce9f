import {
  ticketNumberSchema as ticketNumber,
  linkDeviceSchema as deviceId,
} from '@bright-cellar/core';
import { z } from 'zod';
import {
  openPartnerSchema,
  partnerToldSchema,
  askMergeLinesSchema,
  mergeLinesSchema,
  decideMergeSchema,
  samePersonsSchema,
  joinPersonsSchema,
  regularWorkSchema,
} from '../shapes/index.js';
import { route } from './define.js';

export const organiserRoutes = {
  openPartner: route(
    'POST',
    '/api/tickets/:number/partners/:deviceId',
    'restore',
    'Sign in to the customer’s own address book and calendars, to keep a device in step with them.',
    { params: z.object({ number: ticketNumber, deviceId }), body: openPartnerSchema, isLong: true },
    partnerToldSchema,
  ),
  openPartnerDevice: route(
    'POST',
    '/api/tickets/:number/partner-devices/:deviceId',
    'restore',
    'Open another device of the same customer, to keep a device in step with it.',
    {
      params: z.object({ number: ticketNumber, deviceId }),
      body: z.object({ other: deviceId }),
      isLong: true,
    },
    partnerToldSchema,
  ),
  openPartnerBackup: route(
    'POST',
    '/api/tickets/:number/partner-backups/:deviceId',
    'restore',
    'Open what a backup holds that somebody looks into, to bring a device into step with it.',
    {
      params: z.object({ number: ticketNumber, deviceId }),
      body: z.object({ lookIn: z.uuid() }),
      isLong: true,
    },
    partnerToldSchema,
  ),
  closePartner: route(
    'DELETE',
    '/api/partners/:id',
    'restore',
    'Forget the customer’s server, and the password to it.',
    { params: z.object({ id: z.uuid() }) },
    z.object({}),
  ),
  mergeLines: route(
    'POST',
    '/api/partners/:id/lines',
    'restore',
    'What becomes of each person and event, both sides beside each other.',
    { params: z.object({ id: z.uuid() }), body: askMergeLinesSchema, isLong: true },
    mergeLinesSchema,
  ),
  decideMerge: route(
    'POST',
    '/api/partners/:id/decisions',
    'restore',
    'Decide what becomes of something that both sides changed.',
    { params: z.object({ id: z.uuid() }), body: decideMergeSchema, isLong: true },
    z.object({}),
  ),
  samePersons: route(
    'GET',
    '/api/partners/:id/persons',
    'restore',
    'Cards that may be one person’s, the surest first, each with what speaks for it.',
    { params: z.object({ id: z.uuid() }), isLong: true },
    samePersonsSchema,
  ),
  joinPersons: route(
    'POST',
    '/api/partners/:id/joins',
    'restore',
    'Make two cards one, or two again; nothing is written yet.',
    { params: z.object({ id: z.uuid() }), body: joinPersonsSchema, isLong: true },
    z.object({}),
  ),
  keepInStep: route(
    'POST',
    '/api/tickets/:number/regular-syncs',
    'restore',
    'Keep the ticket’s device in step whenever it is connected, with the customer’s server, or their other device, that is open now.',
    { params: z.object({ number: ticketNumber }), body: z.object({ partner: z.uuid() }) },
    z.array(regularWorkSchema),
  ),
} as const;
