import { backedUpDeviceSchema, dataClassIds, Failure, visitSheetSchema } from '@bright-cellar/core';
import { z } from 'zod';
import { jsonOrNull } from '../tools/json.js';
import { FRAME_MAX_PLAIN } from './sealed.js';

/**
 * A backup's list of items, as JSON Lines inside a sealed file: one header, then items as they come,
 * failed ones among them, then one end line. Every frame holds whole lines.
 */
export const backupHeaderSchema = z.object({
  type: z.literal('backup'),
  format: z.literal(1),
  archive: z.uuid(),
  backup: z.uuid(),
  takenAt: z.iso.datetime(),
  /** What the person who took it wants to read in a list. */
  label: z.string().max(1000),
  ticket: z.string(),
  /** Null for a plain folder. */
  device: backedUpDeviceSchema.nullable(),
  /** What is known of the visit; absent where nobody said. */
  sheet: visitSheetSchema.optional(),
});
export type BackupHeader = z.infer<typeof backupHeaderSchema>;

/** Chunk ids in hexadecimal, one after the other. */
const chunkIdsSchema = z.string().regex(/^(?:[0-9a-f]{64})*$/);
const markSchema = z.string().max(1000);

const newItemSchema = z.object({
  class: z.enum(dataClassIds),
  kind: z.enum(['file', 'folder', 'link']),
  /** As on the device, with `/` between its parts; see names.ts for bytes that are not UTF-8. */
  path: z.string().min(1),
  /** Bytes of contents; a link's contents are what it points to. */
  bytes: z.int().min(0),
  /** UTC, as exact as the source has it. */
  modified: z.iso.datetime(),
  /** POSIX permission bits, where the device has them. */
  mode: z.int().min(0).max(0o7777).nullable(),
  /** What the source says of this state of the item: as long as it says the same, the bytes are the same. Empty when it says nothing. */
  mark: markSchema,
  /** What its contents are, as the source says: a media type (RFC 6838); absent where it does not say. */
  format: z.string().max(121).optional(),
});
/** What is known of an item before its bytes are taken. */
export type NewItem = z.infer<typeof newItemSchema>;

const itemSchema = newItemSchema.extend({
  type: z.literal('item'),
  /** Where in the item the chunks of this line begin; those before it were brought by `part` lines. */
  from: z.int().min(0),
  chunks: chunkIdsSchema,
});
export type ItemLine = z.infer<typeof itemSchema>;

/** An item whose bytes are in the archive, put together from its lines. */
export type ItemRecord = Omit<ItemLine, 'type' | 'chunks' | 'from'> & {
  /** Ids of its chunks in the order of the contents, 32 bytes each. */
  chunks: Buffer;
};

const partSchema = z.object({
  type: z.literal('part'),
  path: z.string().min(1),
  mark: markSchema,
  /** Where in the item these chunks begin. */
  from: z.int().min(0),
  /** Where they end. */
  to: z.int().min(0),
  chunks: chunkIdsSchema,
});
/** The beginning of a long item, so that no line grows without bound and a cut run can go on within it. */
export type PartLine = z.infer<typeof partSchema>;

/** So much of a name that is too long for anything is kept. */
export const FAILED_PATH_MAX = 8192;

const failedSchema = z.object({
  type: z.literal('failed'),
  class: z.enum(dataClassIds),
  path: z.string().max(FAILED_PATH_MAX),
  reason: z.enum(['read-error', 'changed', 'gone', 'refused', 'not-a-file', 'unfit-name']),
});
/** An item that could not be taken, and why. */
export type FailedItem = z.infer<typeof failedSchema>;

const endSchema = z.object({
  type: z.literal('end'),
  items: z.int().min(0),
  /** Bytes of contents of all items. */
  bytes: z.int().min(0),
  failed: z.int().min(0),
  /** What this backup brought that the archive did not have: items, bytes of contents, bytes stored. */
  newItems: z.int().min(0),
  newBytes: z.int().min(0),
  storedBytes: z.int().min(0),
});
export type BackupEnd = z.infer<typeof endSchema>;

const lineSchema = z.discriminatedUnion('type', [
  backupHeaderSchema,
  itemSchema,
  partSchema,
  failedSchema,
  endSchema,
]);
export type BackupLine = z.infer<typeof lineSchema>;

/** Longer lists of chunks are brought by part lines. */
export const CHUNKS_IN_LINE_MAX = 1024;

/** @throws Failure `input-not-valid` for a line that no frame could hold (an absurdly long name). */
export function encodeLine(line: BackupLine): Buffer {
  const bytes = Buffer.from(`${JSON.stringify(line)}\n`);
  if (bytes.length > FRAME_MAX_PLAIN) throw new Failure('input-not-valid');
  return bytes;
}

/** The lines of one frame. @throws Failure `archive-damaged`. */
export function* decodeLines(frame: Buffer): Generator<BackupLine> {
  if (frame[frame.length - 1] !== 10) throw new Failure('archive-damaged');
  for (let from = 0; from < frame.length;) {
    const end = frame.indexOf(10, from);
    const parsed = lineSchema.safeParse(jsonOrNull(frame.toString('utf8', from, end)));
    if (!parsed.success) throw new Failure('archive-damaged', {}, { cause: parsed.error });
    yield parsed.data;
    from = end + 1;
  }
}
