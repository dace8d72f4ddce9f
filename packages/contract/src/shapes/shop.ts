import {
  shopDetailsSchema,
  patternProblem,
  updatePolicies,
  proofAges,
  copySpeeds,
  signInRulesSchema,
  lookingRulesSchema,
  benchRulesSchema,
  careRulesSchema,
  disposalRulesSchema,
  networkRulesSchema,
  instantSchema as instant,
  idSchema as id,
  byteCountSchema as byteCount,
} from '@bright-cellar/core';
import { z } from 'zod';

/** What the shop decided once for everybody. */
export const shopSettingsSchema = z.object({
  /** What stands on its papers and its screens. */
  shop: shopDetailsSchema,
  namePattern: z
    .string()
    .trim()
    .max(200)
    .superRefine((pattern, context) => {
      const problem = patternProblem(pattern);
      if (problem) context.addIssue({ code: 'custom', message: problem });
    }),
  updatePolicy: z.enum(updatePolicies),
  /** How old a proof may be when a device is erased on the strength of it; hours. */
  proofAge: z.enum(proofAges),
  /** How fast copies are made at most. */
  copySpeed: z.enum(copySpeeds),
  /** How one signs in. */
  signIn: signInRulesSchema,
  looking: lookingRulesSchema,
  bench: benchRulesSchema,
  care: careRulesSchema,
  disposal: disposalRulesSchema,
});

export type ShopSettings = z.infer<typeof shopSettingsSchema>;

/** What is known of one thing that can go wrong with the installation, and what to do. */
export const findingSchema = z.object({
  about: z.string(),
  state: z.enum(['well', 'look', 'wrong']),
  what: z.string(),
  next: z.string(),
});

/** How other computers reach the program. */
export const networkSchema = z.object({
  rules: networkRulesSchema,
  /** Where the application is found by them. */
  addresses: z.array(z.string()),
  /** Where customers’ own phones find the page for their password. */
  deskAddress: z.string(),
  /** On loopback: what a proxy forwards to. */
  localPorts: z.object({ shop: z.int(), desk: z.int() }),
  /** Names and addresses that this computer has. */
  suggested: z.array(z.string()),
  certificate: z
    .object({
      until: instant,
      /** SHA-256. */
      fingerprint: z.string(),
      /** Names and addresses that it is not for. */
      uncovered: z.array(z.string()),
    })
    .nullable(),
  /** Where certificates are the installation’s own. */
  authority: z.object({ until: instant, fingerprint: z.string() }).nullable(),
});

export type NetworkView = z.infer<typeof networkSchema>;

/** How the catalogue itself is saved. */
export const savesSchema = z.object({
  /** What saves are sealed to, and since when; null where nobody made a key yet: then there are none. */
  key: z.object({ recipient: z.string(), since: instant }).nullable(),
  /** One is being made now. */
  running: z.boolean(),
  racks: z.array(
    z.object({
      rackId: id,
      rackName: z.string(),
      present: z.boolean(),
      /** The last that lies there whole; null where none does. */
      savedAt: instant.nullable(),
      bytes: byteCount.nullable(),
      /** What was wrong with the last try; null where nothing was. */
      problem: z.string().nullable(),
    }),
  ),
});

export type SavesView = z.infer<typeof savesSchema>;
