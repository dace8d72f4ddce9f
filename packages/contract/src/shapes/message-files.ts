import { extractFormats, leftOutReasonIds, mappingSchema } from '@bright-cellar/core';
import { z } from 'zod';

/** What an open file of messages or calls holds, as it is mapped now. All of it is the customer's. */
export const fileToldSchema = z.object({
  id: z.uuid(),
  format: z.enum(extractFormats),
  columns: z.array(z.string()),
  mapping: mappingSchema,
  /** The first of what would come back. */
  first: z.array(
    z.object({
      at: z.iso.datetime(),
      /** A number; `me` for the owner. */
      from: z.string(),
      with: z.array(z.string()),
      text: z.string(),
    }),
  ),
  messages: z.int(),
  calls: z.int(),
  conversations: z.int(),
  since: z.iso.datetime().nullable(),
  until: z.iso.datetime().nullable(),
  /** Names without a number. */
  unknown: z.array(z.string()),
  /** Lines that say what another one said. */
  twice: z.int(),
  /** Lines of which what came with them is not there: it is not in the file, and was not given beside it. */
  without: z.int(),
  /** Pictures and other files that were given beside it, and belong to a line. */
  pictures: z.int(),
  /** Lines that are none of its format. */
  broken: z.int(),
  leftOut: z.object({
    count: z.int(),
    first: z.array(z.object({ line: z.int(), why: z.enum(leftOutReasonIds) })),
  }),
});
export type FileTold = z.infer<typeof fileToldSchema>;

/** Where a file is sent, as text: `POST`, for the ticket and the device in the address. Asks for the permission `restore`. */
export const messageFilePath = (number: string, deviceId: string): string =>
  `/api/tickets/${number}/message-files/${deviceId}`;
/**
 * Where a picture of it is sent, as bytes with its media type: `POST`, for the ticket and the file in the address; its place, the last
 * folder and the name, in the header {@link PICTURE_PLACE}, percent-encoded: addresses end up in logs. Permission `restore`.
 */
export const messagePicturePath = (number: string, file: string): string =>
  `/api/tickets/${number}/message-files/${file}/pictures`;
export const PICTURE_PLACE = 'x-place';
export const pictureTakenSchema = z.object({
  /** A line of the file came with it. */
  isWanted: z.boolean(),
});
/** A longer one was not sent with a message. */
export const PICTURE_BYTES_MAX = 24e6;
/** A longer one is none that people hold in their hands. */
export const MESSAGE_FILE_BYTES_MAX = 24e6;
