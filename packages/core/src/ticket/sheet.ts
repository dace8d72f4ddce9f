import { z } from 'zod';
import { backupScopeSchema, coverageLineSchema } from '../backup/index.js';
import { instantSchema } from '../values/index.js';
import { visitReasonIds } from './visit.js';

/** Stands for a customer of whom a backup says nothing. */
export const NO_SHEET_NAME = 'Not known';

/**
 * What a backup says of the visit during which it was taken, sealed with it: from racks and passwords alone the catalogue can
 * be built again. What comes from a drive is hostile: every text has its bound.
 */
export const visitSheetSchema = z.object({
  customer: z.object({
    name: z.string().min(1).max(120),
    phone: z.string().max(40),
    email: z.string().max(254),
  }),
  reason: z.enum(visitReasonIds),
  openedAt: instantSchema,
  notes: z.string().max(5000),
  agreed: z.object({
    backup: z.boolean(),
    lookIn: z.boolean(),
    escrow: z.boolean(),
    /** 0: not kept. */
    keepDays: z.int().min(0).max(100_000),
  }),
  /** Who was to keep the password. */
  passwordHolder: z.string().max(20),
  scope: backupScopeSchema,
  coverage: z.array(coverageLineSchema).max(200),
});
export type VisitSheet = z.infer<typeof visitSheetSchema>;
