import {
  dataClassIds,
  deviceFactsSchema,
  classAmountSchema,
  operationKinds,
  operationStates,
  problemCodes,
  stepStates,
  visitReasonIds,
} from '@bright-cellar/core';
import { z } from 'zod';

const id = z.uuid();
const instant = z.iso.datetime();
/** Bytes; decimal units are a matter of showing them. */
const byteCount = z.int().min(0);

export const problemSchema = z.object({
  code: z.enum(problemCodes),
  what: z.string(),
  safe: z.string(),
  next: z.string(),
  /** What is wrong with which field of the form, where it is about a form. */
  fields: z.record(z.string(), z.string()).optional(),
});
export type ApiProblem = z.infer<typeof problemSchema>;

export const sessionSchema = z.object({
  technician: z.object({ id, name: z.string(), login: z.string() }),
  /** Sent back in the `x-csrf-token` header with everything that changes something. */
  csrfToken: z.string(),
  /** Where the demo's stand-in devices are pressed; null in a real shop. */
  trayAddress: z.string().nullable(),
  shopName: z.string(),
});
export type Session = z.infer<typeof sessionSchema>;

export const rackSchema = z.object({
  id,
  name: z.string(),
  /** The folder, as the shop computer sees it. */
  path: z.string(),
  present: z.boolean(),
  capacity: byteCount,
  free: byteCount,
  /** Kept free: nothing is proposed that would go below this. */
  reserve: byteCount,
  /** What the catalogue says lies there. */
  archives: z.int(),
  storedBytes: byteCount,
});
export type Rack = z.infer<typeof rackSchema>;

export const conditionSchema = z.object({
  id: z.string(),
  label: z.string(),
  met: z.boolean(),
  reading: z.string(),
  remedy: z.string().nullable(),
  steps: z.array(z.string()),
  weight: z.enum(['must', 'accept', 'note']),
  otherwise: z.string().nullable(),
});

export const failedItemsSchema = z.object({
  class: z.enum(dataClassIds),
  reason: z.string(),
  count: z.int().min(1),
});

/** How an operation ended well; which fields there are depends on its kind. */
export const operationResultSchema = z.object({
  items: z.int(),
  bytes: byteCount,
  failed: z.array(failedItemsSchema),
  storedBytes: byteCount.nullable(),
  /** Backup: what the archive did not have before. */
  newItems: z.int().nullable(),
  newBytes: byteCount.nullable(),
  durationMs: z.int(),
  /** SHA-512 of the bag's manifest. */
  digest: z.string().nullable(),
  /** Restore: how the items on the target compare with the backup's. */
  compared: z
    .object({
      same: z.int(),
      different: z.int(),
      missing: z.int(),
      extra: z.int(),
    })
    .nullable(),
  /** Export: the name of the file that was written, in the rack’s packages folder. */
  wrote: z.string().nullable(),
});
export type OperationResult = z.infer<typeof operationResultSchema>;

export const operationSchema = z.object({
  id,
  kind: z.enum(operationKinds),
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
  stopping: z.boolean(),
  startedAt: instant,
  endedAt: instant.nullable(),
  startedBy: z.string(),
  result: operationResultSchema.nullable(),
  problem: problemSchema.nullable(),
  /** Bytes on the rack from which a backup that was cut off can go on; null when it cannot. */
  keptBytes: byteCount.nullable(),
});
export type Operation = z.infer<typeof operationSchema>;

export const berthSchema = z.object({
  number: z.int(),
  connection: z.enum(['cable', 'network']),
  device: deviceFactsSchema.nullable(),
  /** What must hold before a backup may start, as the server judges it. */
  readiness: z.array(conditionSchema),
  /** What the device will ask its holder for next. */
  asks: z.array(z.string()),
  ticketNumber: z.string().nullable(),
  customerName: z.string().nullable(),
});
export type Berth = z.infer<typeof berthSchema>;

export const benchSchema = z.object({
  /** False while the bench process does not answer. */
  connected: z.boolean(),
  berths: z.array(berthSchema),
  /** Devices that went away in the middle of an operation and are expected back. */
  away: z.array(z.object({ deviceId: z.string(), name: z.string(), berth: z.int() })),
});
export type BenchView = z.infer<typeof benchSchema>;

export const customerSchema = z.object({
  id,
  name: z.string(),
  phone: z.string(),
  email: z.string(),
});
export type Customer = z.infer<typeof customerSchema>;

export const knownDeviceSchema = z.object({
  id,
  family: z.string(),
  familyName: z.string(),
  kind: z.string(),
  model: z.string(),
  name: z.string(),
  serial: z.string(),
  osName: z.string(),
  osVersion: z.string(),
});
export type KnownDevice = z.infer<typeof knownDeviceSchema>;

/** How closely an archive was looked at. */
export const proofLevelSchema = z.enum(['structure', 'sample', 'bytes', 'full']);
export type ProofLevel = z.infer<typeof proofLevelSchema>;

export const proofSchema = z.object({
  id,
  level: proofLevelSchema,
  at: instant,
  by: z.string(),
  outcome: z.enum(['whole', 'damaged']),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  what: z.string(),
});
export type Proof = z.infer<typeof proofSchema>;

export const backupSchema = z.object({
  id,
  archiveId: id,
  takenAt: instant,
  takenBy: z.string(),
  osVersion: z.string(),
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  /** What the archive did not have before. */
  newItems: z.int(),
  newBytes: byteCount,
  durationMs: z.int(),
  digest: z.string(),
  failed: z.array(failedItemsSchema),
  classes: z.array(classAmountSchema),
  proofs: z.array(proofSchema),
});
export type Backup = z.infer<typeof backupSchema>;

export const copySchema = z.object({
  id,
  rackId: id,
  rackName: z.string(),
  folder: z.string(),
  storedBytes: byteCount,
  /** Whether the folder is there right now. */
  present: z.boolean(),
});

/** A package that lies on a rack. */
export const packageSchema = z.object({
  rackId: id,
  rackName: z.string(),
  name: z.string(),
  bytes: byteCount,
  modified: instant,
});
export type Package = z.infer<typeof packageSchema>;

const amountSchema = z.object({ items: z.int(), bytes: byteCount });
/** What of a device an archive has as it is, and what a backup would send. */
export const comparedSchema = z.object({ same: amountSchema, toSend: amountSchema });
export type Compared = z.infer<typeof comparedSchema>;

export const archiveRowSchema = z.object({
  id,
  ticketNumber: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  takenAt: instant,
  items: z.int(),
  bytes: byteCount,
  storedBytes: byteCount,
  rackName: z.string(),
  /** When a proof last found it whole; null when none did. */
  provenAt: instant.nullable(),
  damaged: z.boolean(),
});
export type ArchiveRow = z.infer<typeof archiveRowSchema>;

export const archiveSchema = archiveRowSchema.extend({
  passwordHolder: z.string(),
  reminder: z.string(),
  backups: z.array(backupSchema),
  copies: z.array(copySchema),
});
export type Archive = z.infer<typeof archiveSchema>;

export const stepSchema = z.object({
  id: z.enum(['agree', 'connect', 'backup', 'prove', 'restore']),
  title: z.string(),
  state: z.enum(stepStates),
  evidence: z.array(z.string()),
  sentence: z.string().nullable(),
});

export const ticketRowSchema = z.object({
  number: z.string(),
  customerName: z.string(),
  device: knownDeviceSchema,
  reason: z.enum(visitReasonIds),
  openedAt: instant,
  promisedAt: instant.nullable(),
  /** The step somebody should look at now, and its sentence. */
  step: stepSchema.nullable(),
});
export type TicketRow = z.infer<typeof ticketRowSchema>;

export const auditRowSchema = z.object({
  at: instant,
  by: z.string(),
  what: z.string(),
});

export const ticketSchema = ticketRowSchema.extend({
  customer: customerSchema,
  agreed: z.object({ backup: z.boolean(), keepDays: z.int() }),
  notes: z.string(),
  openedBy: z.string(),
  runSheet: z.array(stepSchema),
  /** Where the ticket's device is now; null when it is not on the bench. */
  berth: z.int().nullable(),
  archiveIds: z.array(id),
  /** An archive of an earlier visit that this device’s next backup can go into; null when there is none there. */
  knownArchive: z
    .object({ id, rackName: z.string(), takenAt: instant, reminder: z.string() })
    .nullable(),
  operations: z.array(operationSchema),
  history: z.array(auditRowSchema),
});
export type Ticket = z.infer<typeof ticketSchema>;

export const foundSchema = z.object({
  kind: z.enum(['ticket', 'archive', 'device']),
  /** Where in the application it is. */
  path: z.string(),
  title: z.string(),
  detail: z.string(),
});
export type Found = z.infer<typeof foundSchema>;
