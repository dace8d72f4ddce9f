import { archiveIdSchema, backupIdSchema, dataClassIds } from '@bright-cellar/core';
import { z } from 'zod';
import { monthSchema, shelfIds } from './look-shelves.js';

/** A look-in that is open: somebody reads what is in a backup. */
export const lookInSchema = z.object({
  id: z.uuid(),
  archiveId: archiveIdSchema,
  backupId: backupIdSchema,
  ticketNumber: z.string(),
  deviceName: z.string(),
  by: z.string(),
  /** Whoever asks is who looks: nobody else reads in it. */
  isOwn: z.boolean(),
  since: z.iso.datetime(),
  /** It closes itself then, if nobody reads on. */
  closesAt: z.iso.datetime(),
});
export type LookIn = z.infer<typeof lookInSchema>;

/** What was found so far; a backup is read while one looks into it already. */
export const lookAmountsSchema = z.object({
  backupTakenAt: z.iso.datetime(),
  /** Items looked at so far, and whether that is all. */
  items: z.int(),
  isAll: z.boolean(),
  /** The list of the backup is damaged: there is no more than what was found. */
  isCut: z.boolean(),
  classes: z.array(z.object({ class: z.enum(dataClassIds), items: z.int(), bytes: z.int() })),
  conversations: z.int(),
  messages: z.int(),
  /** What can be read as a list, and how many rows each has. */
  shelves: z.array(z.object({ shelf: z.enum(shelfIds), rows: z.int() })),
  /** Of photographs it is still being read when and where they were taken. */
  isDating: z.boolean(),
  /** Files that say they hold records, and do not. */
  unreadable: z.int(),
});
export type LookAmounts = z.infer<typeof lookAmountsSchema>;

/** Some of a list, and how many there are. */
export const lookedSchema = <Row extends z.ZodType>(row: Row) =>
  z.object({ rows: z.array(row), total: z.int() });

export const lookConversationSchema = z.object({
  /** Its number in this look-in: nothing of whose it is stands in an address. */
  id: z.int(),
  people: z.array(z.string()),
  isGroup: z.boolean(),
  /** More than one where it was joined: the same person, in several applications. */
  sources: z.array(z.string()),
  messages: z.int(),
  from: z.iso.datetime(),
  to: z.iso.datetime(),
  last: z.string(),
});
export type LookConversation = z.infer<typeof lookConversationSchema>;

const message = z.object({
  index: z.int(),
  at: z.iso.datetime(),
  isOwn: z.boolean(),
  from: z.string(),
  text: z.string(),
  source: z.string(),
  /** What came with it; null for nothing. */
  with: z
    .object({
      /** Its number in this look-in; null where it is not in the backup. */
      item: z.int().nullable(),
      name: z.string(),
      isPicture: z.boolean(),
      /** What plays it; null where nothing does. */
      plays: z.string().nullable(),
    })
    .nullable(),
});
export type LookMessage = z.infer<typeof message>;

export const lookMessagesSchema = z.object({
  conversation: lookConversationSchema,
  rows: z.array(message),
  /** How much was said in each month (UTC), and the first message of it. */
  months: z.array(monthSchema),
});
export type LookMessages = z.infer<typeof lookMessagesSchema>;

export const lookHitSchema = z.object({
  conversation: z.int(),
  people: z.array(z.string()),
  index: z.int(),
  at: z.iso.datetime(),
  from: z.string(),
  text: z.string(),
});
export type LookHit = z.infer<typeof lookHitSchema>;

export const lookFileSchema = z.object({
  item: z.int(),
  path: z.string(),
  bytes: z.int(),
  modified: z.iso.datetime(),
  /** A preview of it can be drawn. */
  isPicture: z.boolean(),
});
export type LookFile = z.infer<typeof lookFileSchema>;

/** What can be drawn of a look-in: a file that is a picture, or the picture on a contact’s card. */
export const picturedSchema = z.object({
  of: z.enum(['files', 'cards']),
  number: z.coerce.number().int().min(0),
});
export type Pictured = z.output<typeof picturedSchema>;

/** A picture of a look-in, drawn anew at most so many pixels wide and high, as WebP. Asks for the permission `look-in`. */
export const lookPicturePath = (
  id: string,
  { of, number }: { of: string; number: number | string },
  pixels: number | string,
): string => `/api/look-ins/${id}/pictures/${of}/${number}/${pixels}`;

/** What is played of a look-in, straight from the archive; takes ranges (RFC 9110, section 14). Asks for `look-in`. */
export const lookMediaPath = (id: string, item: number | string): string =>
  `/api/look-ins/${id}/media/${item}`;
