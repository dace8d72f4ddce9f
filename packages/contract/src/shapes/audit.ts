import { instantSchema as instant, idSchema as id, auditGroupIds } from '@bright-cellar/core';
import { z } from 'zod';

/** An entry in the record of who did what. */
export const recordEntrySchema = z.object({
  id: z.int(),
  at: instant,
  /** Null where the program did it by itself, or nobody was signed in. */
  by: z.string().nullable(),
  ticketNumber: z.string().nullable(),
  action: z.string(),
  what: z.string(),
});

export type RecordEntry = z.infer<typeof recordEntrySchema>;

/** What of the record is looked at; empty where it does not matter. Days are the shop’s own. */
export const auditAskSchema = z.object({
  who: z.union([id, z.literal('')]).default(''),
  group: z.union([z.enum(auditGroupIds), z.literal('')]).default(''),
  ticket: z.string().trim().max(20).default(''),
  from: z.union([z.iso.date(), z.literal('')]).default(''),
  to: z.union([z.iso.date(), z.literal('')]).default(''),
});

export type AuditAsk = z.infer<typeof auditAskSchema>;

export const auditExportSchema = auditAskSchema.extend({ format: z.enum(['jsonl', 'csv']) });

/** What following the record from its first entry found. */
export const auditCheckSchema = z.object({
  /** How many follow each other unbroken. */
  entries: z.int(),
  /** The digest of the last of them. */
  digest: z.string(),
  /** The first that does not follow; `at` is null where entries are missing at the end. */
  broken: z.object({ entry: z.int(), at: instant.nullable() }).nullable(),
  /** Which entry has the digest that was printed; null where none has, or none was looked for. */
  printedAt: z.object({ entry: z.int(), at: instant }).nullable(),
});

export type AuditCheck = z.infer<typeof auditCheckSchema>;
