import {
  idSchema as id,
  permissionIds,
  instantSchema as instant,
  shopDetailsSchema,
} from '@bright-cellar/core';
import { z } from 'zod';

/** What somebody works here as: `keeper`, `technician`, `trainee`, or the id of one that the shop made. */
const roleId = z.union([z.enum(['keeper', 'technician', 'trainee']), id]);

const permissionList = z.array(z.enum(permissionIds));

export const roleRulesSchema = z.object({
  name: z.string().trim().min(1, 'Give it a name.').max(60),
  permissions: permissionList,
});

export type RoleRules = z.infer<typeof roleRulesSchema>;

export const roleSchema = roleRulesSchema.extend({
  id: roleId,
  /** Every shop has it, as it is. */
  builtIn: z.boolean(),
  /** How many work here as that. */
  people: z.int(),
});

export type RoleRow = z.infer<typeof roleSchema>;

export const sessionSchema = z.object({
  technician: z.object({ id, name: z.string(), login: z.string(), role: roleId }),
  /** What they may do. */
  may: permissionList,
  /** Nobody is let in until they say who they are. */
  locked: z.boolean(),
  /** After so many minutes in which nobody did anything the screen locks; 0: never. */
  lockMinutes: z.int(),
  /** The house rules ask for more than a password, and this account has nothing else yet. */
  mustEnrol: z.boolean(),
  /** Every role there is, to say who may do what. */
  roles: z.array(z.object({ id: roleId, name: z.string(), permissions: permissionList })),
  /** Sent back in the `x-csrf-token` header with everything that changes something. */
  csrfToken: z.string(),
  /** Where the demo's stand-in devices are pressed; null in a real shop. */
  trayAddress: z.string().nullable(),
  shopName: z.string(),
});

export type Session = z.infer<typeof sessionSchema>;

const personName = z.string().trim().min(1, 'Type a name.').max(120);

const personLogin = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[\p{L}\p{N}._-]{2,60}$/u, 'Two letters or more, without spaces.');

/** Somebody who works here, or did. */
export const personSchema = z.object({
  id,
  name: z.string(),
  login: z.string(),
  role: roleId,
  since: instant,
  /** When they did something last; null where they never signed in. */
  seenAt: instant.nullable(),
  leftAt: instant.nullable(),
});

export type PersonRow = z.infer<typeof personSchema>;

export const personRulesSchema = z.object({ name: personName, role: roleId });

export const newPersonSchema = personRulesSchema.extend({
  login: personLogin,
  /** Theirs to change. */
  password: z.string().min(1, 'Choose a password.').max(1024),
});

/** What begins a shop: who keeps it, and what it is called. */
export const firstVisitSchema = z.object({
  /** Printed where the program was started. */
  code: z.string().trim().min(1, 'Type the code.').max(40),
  shop: shopDetailsSchema,
  keeper: z.object({
    name: personName,
    login: personLogin,
    password: z.string().min(1, 'Choose a password.').max(1024),
  }),
});

export type FirstVisit = z.infer<typeof firstVisitSchema>;

/** One's own account. */
export const accountSchema = z.object({
  /** Browsers that are signed in with it now, the one that asks first. */
  sessions: z.array(
    z.object({
      id,
      address: z.string(),
      browser: z.string(),
      since: instant,
      usedAt: instant,
      current: z.boolean(),
      locked: z.boolean(),
    }),
  ),
  /** Whether it gives a code from its holder’s own device. */
  hasCode: z.boolean(),
  hasPin: z.boolean(),
  passkeys: z.array(
    z.object({ id, name: z.string(), createdAt: instant, usedAt: instant.nullable() }),
  ),
  /** The newest first; `refused`: somebody tried and was not let in. */
  recent: z.array(z.object({ at: instant, what: z.string(), refused: z.boolean() })),
});

export type Account = z.infer<typeof accountSchema>;
