import { idSchema as id } from '@bright-cellar/core';
import { z } from 'zod';
import {
  personSchema,
  roleSchema,
  roleRulesSchema,
  auditAskSchema,
  recordEntrySchema,
  auditCheckSchema,
  newPersonSchema,
  personRulesSchema,
} from '../shapes/index.js';
import { route } from './define.js';

export const peopleRoutes = {
  signOutPerson: route(
    'POST',
    '/api/people/:id/sign-out',
    'people',
    'Sign somebody out everywhere.',
    { params: z.object({ id }) },
    z.array(personSchema),
  ),
  people: route(
    'GET',
    '/api/people',
    'people',
    'Who works here, and who did.',
    {},
    z.array(personSchema),
  ),
  roles: route(
    'GET',
    '/api/roles',
    'see',
    'What one can work here as, and what each may do.',
    {},
    z.array(roleSchema),
  ),
  addRole: route(
    'POST',
    '/api/roles',
    'people',
    'A role of the shop’s own, out of single permissions.',
    { body: roleRulesSchema },
    z.array(roleSchema),
  ),
  changeRole: route(
    'PUT',
    '/api/roles/:id',
    'people',
    'What a role of the shop’s own is called, and may do.',
    { params: z.object({ id }), body: roleRulesSchema },
    z.array(roleSchema),
  ),
  dropRole: route(
    'DELETE',
    '/api/roles/:id',
    'people',
    'Take a role away that nobody here has.',
    { params: z.object({ id }) },
    z.array(roleSchema),
  ),
  audit: route(
    'GET',
    '/api/audit',
    'audit',
    'The record of who did what, the newest first, a page at a time.',
    { query: auditAskSchema.extend({ after: z.string().max(200).default('') }) },
    z.object({ rows: z.array(recordEntrySchema), next: z.string().nullable() }),
  ),
  auditHead: route(
    'GET',
    '/api/audit/head',
    'audit',
    'How many entries the record has, and the digest of the last.',
    {},
    z.object({ entries: z.int(), digest: z.string() }),
  ),
  checkAudit: route(
    'GET',
    '/api/audit/check',
    'audit',
    'Follow the record from its first entry: whether each is sealed to all before it.',
    {
      query: z.object({
        printed: z
          .string()
          .regex(/^[\s\da-fA-F]{0,90}$/, 'A digest has only the digits 0 to 9 and a to f.')
          .default(''),
      }),
    },
    auditCheckSchema,
  ),
  addPerson: route(
    'POST',
    '/api/people',
    'people',
    'Somebody works here from now on.',
    { body: newPersonSchema },
    z.array(personSchema),
  ),
  changePerson: route(
    'PUT',
    '/api/people/:id',
    'people',
    'Another name, or another role.',
    { params: z.object({ id }), body: personRulesSchema },
    z.array(personSchema),
  ),
  givePassword: route(
    'POST',
    '/api/people/:id/sign-in',
    'people',
    'Another first password, for somebody who forgot theirs: they are signed out everywhere.',
    { params: z.object({ id }), body: newPersonSchema.pick({ password: true }) },
    z.array(personSchema),
  ),
  personLeaves: route(
    'POST',
    '/api/people/:id/leave',
    'people',
    'They work here no longer: every session of theirs ends. What they did stays on record.',
    { params: z.object({ id }) },
    z.array(personSchema),
  ),
} as const;
