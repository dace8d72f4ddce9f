import {
  dataClassIds,
  byteCountSchema as byteCount,
  instantSchema as instant,
  idSchema as id,
  operationStates,
  estimateSchema,
  type OperationKind,
  type OperationResult,
  operations,
  operationKinds,
} from '@bright-cellar/core';
import { z } from 'zod';
import { problemSchema } from './problem.js';

/** One item that a backup did not take. */
export const failedItemSchema = z.object({
  class: z.enum(dataClassIds),
  reason: z.string(),
  /** Null unless the customer agreed that the shop looks inside. */
  name: z.string().nullable(),
  bytes: byteCount,
  modified: instant,
});

export type FailedItem = z.infer<typeof failedItemSchema>;

const operationShape = {
  id,
  state: z.enum(operationStates),
  ticketNumber: z.string().nullable(),
  deviceId: z.string().nullable(),
  deviceName: z.string().nullable(),
  archiveId: id.nullable(),
  backupId: id.nullable(),
  phase: z.string(),
  doneBytes: byteCount,
  totalBytes: byteCount,
  doneItems: z.int(),
  totalItems: z.int(),
  /** Bytes a second over the last seconds. */
  rate: z.number(),
  leftLowMs: z.number().nullable(),
  leftHighMs: z.number().nullable(),
  /** What somebody must do on the device before it goes on. */
  needs: z.string().nullable(),
  estimate: estimateSchema.nullable(),
  /** Items that failed and can be tried again by themselves. */
  retryable: z.int().min(0),
  startedAt: instant,
  endedAt: instant.nullable(),
  startedBy: z.string(),
  problem: problemSchema.nullable(),
  /** Bytes on the rack from which one that was cut off can go on; null when it cannot. Not looked for in lists. */
  keptBytes: byteCount.nullable().optional(),
};

const common = z.object(operationShape);

/** One piece of long work, of one kind. */
export type OperationOf<Kind extends OperationKind> = z.infer<typeof common> & {
  kind: Kind;
  result: OperationResult<Kind> | null;
};

export type Operation = { [Kind in OperationKind]: OperationOf<Kind> }[OperationKind];

const ofKind = (kind: OperationKind) =>
  common.extend({ kind: z.literal(kind), result: operations[kind].result.nullable() });

/** What each kind says of its end is said in core; here they are one shape, told apart by their kind. */
export const operationSchema = z.discriminatedUnion(
  'kind',
  operationKinds.map(ofKind) as [ReturnType<typeof ofKind>, ...ReturnType<typeof ofKind>[]],
) as unknown as z.ZodType<Operation>;

export const runSorts = ['started', 'work'] as const;

export type RunSort = (typeof runSorts)[number];
