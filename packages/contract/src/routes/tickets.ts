import {
  idSchema as id,
  linkDeviceSchema as deviceId,
  visitReasonIds,
  ticketNumberSchema as ticketNumber,
  agreementKinds,
  stepIds,
} from '@bright-cellar/core';
import { z } from 'zod';
import {
  handoverLanguageIds,
  customerDataSchema,
  customerSchema,
  listQuery,
  ticketSorts,
  pageOf,
  ticketRowSchema,
  ticketSchema,
  knownVisitsSchema,
} from '../shapes/index.js';
import { route } from './define.js';

export const newTicketSchema = z.object({
  customer: z.union([
    z.object({ id }),
    z.object({
      name: z.string().trim().min(1, 'Type the customer’s name.').max(120),
      phone: z.string().trim().max(40),
      email: z.string().trim().max(254),
    }),
  ]),
  /** The device on the bench, whose facts are read by the server, or what is printed on one that is dead. */
  device: z.union([
    z.object({ deviceId }),
    z.object({
      familyName: z.string().trim().min(1, 'Type the make.').max(60),
      model: z.string().trim().min(1, 'Type the model.').max(60),
      kind: z.enum(['phone', 'tablet', 'handset']),
      /** Empty where it cannot be read off. */
      serial: z.string().trim().max(64),
      imei: z.string().trim().max(20),
    }),
  ]),
  /** Somebody asked whose it is, where it came with another customer before. */
  otherOwnerConfirmed: z.boolean(),
  reason: z.enum(visitReasonIds),
  agreed: z.object({
    backup: z.boolean(),
    lookIn: z.boolean(),
    escrow: z.boolean(),
    /** 0: not kept. */
    keepDays: z.int().min(0).max(3650),
  }),
  promisedAt: z.iso.datetime().nullable(),
  notes: z.string().max(2000),
});

export type NewTicket = z.infer<typeof newTicketSchema>;

export const ticketsRoutes = {
  handoverSheet: route(
    'GET',
    '/api/tickets/:number/handover',
    'see',
    'What the customer takes home, in their language, to be read on a screen.',
    {
      params: z.object({ number: ticketNumber }),
      query: z.object({ language: z.enum(handoverLanguageIds).catch('en') }),
    },
    z.object({
      title: z.string(),
      sections: z.array(
        z.object({
          title: z.string(),
          lines: z.array(z.object({ name: z.string(), text: z.string() })),
        }),
      ),
    }),
  ),
  customerData: route(
    'GET',
    '/api/customers/:id/data',
    'customer-data',
    'Everything that the catalogue has of a customer.',
    { params: z.object({ id }) },
    customerDataSchema,
  ),
  forgetCustomer: route(
    'POST',
    '/api/customers/:id/forget',
    'customer-data',
    'Let go of a customer’s name, number and address, where nothing of theirs is kept.',
    { params: z.object({ id }) },
    customerDataSchema,
  ),
  customers: route(
    'GET',
    '/api/customers',
    'take-in',
    'Customers whose name, phone or address matches.',
    { query: z.object({ text: z.string().max(100) }) },
    z.array(customerSchema),
  ),
  tickets: route(
    'GET',
    '/api/tickets',
    'see',
    'Open tickets, a page at a time.',
    {
      query: listQuery(ticketSorts, 'opened').extend({
        /** Only these: numbers with commas between. */
        only: z
          .string()
          .regex(/^(?:\d{6,12}(?:,\d{6,12}){0,49})?$/)
          .default(''),
      }),
    },
    pageOf(ticketRowSchema),
  ),
  newTicket: route(
    'POST',
    '/api/tickets',
    'take-in',
    'Open a ticket for a device on the bench.',
    { body: newTicketSchema },
    ticketSchema,
  ),
  ticket: route(
    'GET',
    '/api/tickets/:number',
    'see',
    'One ticket with its run sheet.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  noteAgreement: route(
    'POST',
    '/api/tickets/:number/agreements',
    'take-in',
    'Note what the customer agreed to, or took back.',
    {
      params: z.object({ number: ticketNumber }),
      body: z.object({
        kind: z.enum(agreementKinds),
        given: z.boolean(),
        days: z.int().min(1).max(3650).nullable(),
      }),
    },
    ticketSchema,
  ),
  settleStep: route(
    'POST',
    '/api/tickets/:number/steps/:step',
    'take-in',
    'Say that a step is done, or skip it with a reason, or take that back.',
    {
      params: z.object({ number: ticketNumber, step: z.enum(stepIds) }),
      body: z.object({
        state: z.enum(['done', 'skipped', 'open']),
        reason: z.string().trim().max(300),
      }),
    },
    ticketSchema,
  ),
  tieDevice: route(
    'POST',
    '/api/tickets/:number/device',
    'take-in',
    'Say which device on the bench a ticket is about, where it was typed before.',
    {
      params: z.object({ number: ticketNumber }),
      body: z.object({
        deviceId,
        /** Somebody asked whose it is, or looked at what is printed on it. */
        questionAnswered: z.boolean(),
      }),
    },
    ticketSchema,
  ),
  closeTicket: route(
    'POST',
    '/api/tickets/:number/close',
    'take-in',
    'Close a ticket on whose run sheet nothing is left to do.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  reopenTicket: route(
    'POST',
    '/api/tickets/:number/reopen',
    'take-in',
    'Open a ticket again that was closed.',
    { params: z.object({ number: ticketNumber }) },
    ticketSchema,
  ),
  knownVisits: route(
    'GET',
    '/api/devices/:deviceId/visits',
    'take-in',
    'What the shop knows of a device on the bench.',
    { params: z.object({ deviceId }) },
    knownVisitsSchema,
  ),
} as const;
