import {
  decisions,
  fieldIds,
  partnerSiteSchema,
  personReasonIds,
  syncedKinds,
  type SyncedKind,
} from '@bright-cellar/core';
import { z } from 'zod';

/** A customer's server, opened. The password stays in the memory of the work process, and nothing of it in a row. */
export const openPartnerSchema = z.object({
  site: partnerSiteSchema,
  password: z.string().min(1).max(400),
});

/** Where files of the customer's are sent, as text: `POST`, one after the other. Asks for the permission `restore`. */
export const organiserFilesPath = (number: string, deviceId: string): string =>
  `/api/tickets/${number}/organiser-files/${deviceId}`;
/** What each is called there. */
export const organiserFileNames: Readonly<Record<SyncedKind, string>> = {
  contacts: 'contacts.vcf',
  events: 'calendar.ics',
  tasks: 'tasks.ics',
  notes: 'memos.ics',
};
/** A longer one is no address book. */
export const ORGANISER_FILES_BYTES_MAX = 48e6;
/** Where one of them is fetched as it is now: `GET`. Asks for the permission `restore`. */
export const organiserFilePath = (id: string, kind: string): string =>
  `/api/partners/${id}/files/${kind}`;

export const partnerToldSchema = z.object({
  id: z.uuid(),
  /** Files are brought, and taken along again. */
  kind: z.enum(['server', 'files', 'device', 'backup']),
  /** False where it is only read. */
  mayWrite: z.boolean(),
  books: z.array(z.object({ id: z.string(), kind: z.enum(syncedKinds), name: z.string() })),
});
export type PartnerTold = z.infer<typeof partnerToldSchema>;

const stepSchema = z.enum(['nothing', 'add', 'change', 'remove']);
const sideSchema = z.object({
  /** Null where it is not there. */
  parts: z.array(z.object({ field: z.enum(fieldIds), words: z.string() })).nullable(),
  step: stepSchema,
  /** Which parts are written. */
  fields: z.array(z.enum(fieldIds)),
});

/** One person or event, both sides, and what becomes of it. All of it is the customer's. */
export const mergeLineSchema = z.object({
  /** Its place in this plan. */
  at: z.int(),
  title: z.string(),
  device: sideSchema,
  partner: sideSchema,
  conflict: z
    .object({
      fields: z.array(z.enum(fieldIds)),
      removedOn: z.enum(['device', 'partner']).nullable(),
    })
    .nullable(),
  isOpen: z.boolean(),
});
export type MergeLineTold = z.infer<typeof mergeLineSchema>;

export const mergeLinesSchema = z.object({
  total: z.int(),
  open: z.int(),
  lines: z.array(mergeLineSchema),
});
export type MergeLines = z.infer<typeof mergeLinesSchema>;

export const askMergeLinesSchema = z.object({
  kind: z.enum(syncedKinds),
  /** Only what waits for a decision. */
  onlyOpen: z.boolean(),
  from: z.int().min(0),
});

export const decideMergeSchema = z.object({
  kind: z.enum(syncedKinds),
  /** Null: all that waits for one. */
  at: z.int().min(0).nullable(),
  decision: z.enum(decisions),
});

/** Two cards that may be one person's, with what speaks for it. */
export const samePersonsSchema = z.object({
  total: z.int(),
  pairs: z.array(
    z.object({
      /** Places of their lines in this plan. */
      one: z.int(),
      other: z.int(),
      names: z.tuple([z.string(), z.string()]),
      details: z.tuple([z.string(), z.string()]),
      reasons: z.array(z.enum(personReasonIds)),
      isCertain: z.boolean(),
      isJoined: z.boolean(),
    }),
  ),
});
export type SamePersons = z.infer<typeof samePersonsSchema>;

export const joinPersonsSchema = z.object({
  /** The one that stays, and the one whose values it gets. Null: all that are certain. */
  pair: z.object({ one: z.int().min(0), other: z.int().min(0) }).nullable(),
  /** False: they are two again. */
  areOne: z.boolean(),
});
