import {
  backupIdSchema,
  archiveIdSchema,
  changes,
  dataClassIds,
  linkDeviceSchema,
  rackIdSchema,
  takeOutChoicesSchema,
} from '@bright-cellar/core';
import {
  basketSchema,
  comparisonSchema,
  differenceSchema,
  lookAmountsSchema,
  lookConversationSchema,
  lookedSchema,
  lookFileSchema,
  lookHitSchema,
  lookMessagesSchema,
  lookSamplesSchema,
  shelfIds,
  pickSchema,
  picturedSchema,
  shelfPartSchema,
  takeOutSchema,
} from '@bright-cellar/contract';
import { z } from 'zod';
import { placeSchema } from '../archives/index.js';
import { nothing, order, streamedOrder } from '../engine/orders.js';

/** Which look-in, and who reads on: nobody else may. */
const reading = z.object({ id: z.uuid(), technicianId: z.uuid() });

/** Opens a backup and begins to read it. @throws Failure `wrong-password`, `archive-in-use`, `archive-damaged` */
export const beginLookInOrder = order(
  'begin-look-in',
  placeSchema.extend({
    id: z.uuid(),
    technicianId: z.uuid(),
    /** The session in which it was asked for: it ends with that. */
    session: z.string(),
    archiveId: archiveIdSchema,
    backupId: backupIdSchema,
    ticketId: z.uuid(),
    reason: z.string(),
    password: z.string(),
  }),
  z.object({ id: z.uuid() }),
);
export const endLookInOrder = order('end-look-in', reading, nothing);
/** When each closes itself, of those that are open. */
export const openLookInsOrder = order(
  'open-look-ins',
  nothing,
  z.array(z.object({ id: z.uuid(), closesAt: z.iso.datetime() })),
);

/** All of these throw Failure `look-in-over`. */
export const lookedOrder = order('looked', reading, lookAmountsSchema);
export const lookConversationsOrder = order(
  'look-conversations',
  reading.extend({ text: z.string() }),
  lookedSchema(lookConversationSchema),
);
export const lookMessagesOrder = order(
  'look-messages',
  reading.extend({ conversation: z.int().min(0), from: z.int().min(0), atMost: z.int() }),
  lookMessagesSchema,
);
export const lookSearchOrder = order(
  'look-search',
  reading.extend({ text: z.string(), within: z.int().nullable() }),
  lookedSchema(lookHitSchema),
);
export const lookFilesOrder = order(
  'look-files',
  reading.extend({ class: z.enum(dataClassIds), from: z.int().min(0), text: z.string() }),
  lookedSchema(lookFileSchema),
);
export const lookSamplesOrder = order('look-samples', reading, lookSamplesSchema);
export const lookShelfOrder = order(
  'look-shelf',
  reading.extend({ shelf: z.enum(shelfIds), text: z.string(), from: z.int().min(0) }),
  shelfPartSchema,
);
export const searchShelvesOrder = order(
  'search-shelves',
  reading.extend({ text: z.string() }),
  z.array(shelfPartSchema),
);
/** @throws Failure `not-found` */
export const lookTextOrder = order(
  'look-text',
  reading.extend({ item: z.int().min(0) }),
  z.object({ text: z.string(), isAll: z.boolean() }),
);
/** What is played, or a part of it. @throws Failure `not-found` */
export const lookMediaOrder = streamedOrder(
  'look-media',
  reading.extend({
    item: z.int().min(0),
    from: z.int().min(0),
    /** Not including; null for the end. */
    to: z.int().min(0).nullable(),
  }),
  z.object({ type: z.string(), size: z.int(), from: z.int(), to: z.int() }),
);
/** A picture, drawn anew. @throws Failure `not-found`, `look-in-over`, `archive-damaged` */
export const lookPictureOrder = order(
  'look-picture',
  reading.extend({ pictured: picturedSchema, pixels: z.int().min(16).max(4096) }),
  z.object({ webp: z.base64() }),
);
/** What is in hand; what is taken in hand, or put back (all of it where no key is named). */
export const basketOrder = order('look-basket', reading, basketSchema);
export const pickOrder = order(
  'look-pick',
  reading.extend({ picks: z.array(pickSchema) }),
  basketSchema,
);
export const putBackOrder = order(
  'look-put-back',
  reading.extend({ keys: z.array(z.string()) }),
  basketSchema,
);
/** Prepares what is in hand. @throws Failure `input-not-valid` where that is nothing */
export const prepareTakeOutOrder = order(
  'prepare-take-out',
  reading.extend({
    choices: takeOutChoicesSchema,
    password: z.string().nullable(),
    onlyFailed: z.boolean(),
  }),
  z.object({ id: z.uuid() }),
);
const oneTakeOut = reading.extend({ takeOut: z.uuid() });
/** @throws Failure `not-found` */
export const takeOutStateOrder = order('take-out-state', oneTakeOut, takeOutSchema);
/** Begins to write it onto a rack, once. @throws Failure `not-found`, `rack-not-here` */
export const takeOutToRackOrder = order(
  'take-out-to-rack',
  oneTakeOut.extend({ rackId: rackIdSchema }),
  takeOutSchema,
);
/** The package, once. @throws Failure `not-found` */
export const takeOutOrder = streamedOrder('take-out', oneTakeOut, z.object({ name: z.string() }));

/** Where the newest backup of another archive is read, with what opens it. */
const otherArchive = placeSchema.extend({ password: z.string() });
export type OtherArchive = z.output<typeof otherArchive>;
/** @throws Failure `not-found` where there is no such backup, and what opening the other archive throws */
export const compareOrder = order(
  'look-compare',
  reading.extend({
    with: z.union([
      z.object({ backupId: backupIdSchema }),
      z.object({ deviceId: linkDeviceSchema }),
      z.object({ other: otherArchive }),
    ]),
  }),
  comparisonSchema,
);
/** Both throw Failure `not-found` where nothing is compared. */
export const comparisonOrder = order('look-comparison', reading, comparisonSchema);
export const differencesOrder = order(
  'look-differences',
  reading.extend({
    class: z.enum(dataClassIds).nullable(),
    change: z.enum(changes).nullable(),
    from: z.int().min(0),
  }),
  lookedSchema(differenceSchema),
);
