import { idSchema as id, byteCountSchema as byteCount, moveStates } from '@bright-cellar/core';
import { z } from 'zod';

/** A move that a plan is still to make. */
export const plannedNowSchema = z.object({
  archiveId: id,
  from: id,
  to: id,
  bytes: byteCount,
});

export type PlannedNow = z.infer<typeof plannedNowSchema>;

/** A move of a plan that is carried out, and how far it is. */
export const moveStepSchema = z.object({
  step: z.int(),
  archiveId: id,
  /** Null where the archive is not there any more. */
  deviceName: z.string().nullable(),
  customerName: z.string().nullable(),
  ticketNumber: z.string().nullable(),
  /** Names of racks. */
  from: z.string(),
  to: z.string(),
  bytes: byteCount,
  detour: z.boolean(),
  state: z.enum(moveStates),
  /** Why it was left where it was; empty where it was not. */
  why: z.string(),
});

export type MoveStep = z.infer<typeof moveStepSchema>;
