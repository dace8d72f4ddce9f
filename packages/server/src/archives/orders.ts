import { z } from 'zod';
import {
  choiceSchema,
  amountSchema,
  linkDeviceSchema,
  copyIdSchema,
  rackIdSchema,
} from '@bright-cellar/core';
import { nothing, order } from '../engine/orders.js';

/** What is written down of a change of a copy, once it is made. */
export const copyChangeSchema = z.object({
  archive: z.object({ passwordHolder: z.string(), reminder: z.string() }),
  audit: z.object({
    technicianId: z.uuid(),
    ticketId: z.uuid(),
    action: z.enum(['password-changed', 'escrow-opened']),
    what: z.string(),
  }),
});
const twoPhrases = z.tuple([z.string(), z.string()]);

/** An archive's place: its rack, and its name there. */
export const placeSchema = z.object({ rackId: rackIdSchema, folder: z.string() });

/** @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged`. */
export const tryPasswordOrder = order(
  'try-password',
  placeSchema.extend({ password: z.string() }),
  nothing,
);

/** @throws Failure `wrong-password`, `archive-in-use`, `archive-damaged`, `rack-full`. */
export const changePasswordOrder = order(
  'change-password',
  z.object({
    copyId: copyIdSchema,
    password: z.string(),
    newPassword: z.string(),
    change: copyChangeSchema,
  }),
  nothing,
);

/** What of a device an archive has as it is, and what would be sent. @throws Failure `wrong-password`, `archive-in-use`. */
export const compareOrder = order(
  'compare',
  placeSchema.extend({ password: z.string(), device: linkDeviceSchema, choice: choiceSchema }),
  z.object({
    same: amountSchema,
    toSend: amountSchema,
    /** The device's own ids of what would be sent. */
    ids: z.array(z.string()),
  }),
);

/** A new escrow under two phrases. */
export const newEscrowOrder = order(
  'new-escrow',
  z.object({ phrases: twoPhrases }),
  z.object({ recipient: z.string(), sealed: z.base64() }),
);

/** Another password for an archive, by escrow. @throws Failure `wrong-password`, `archive-in-use`. */
export const openByEscrowOrder = order(
  'open-by-escrow',
  z.object({
    copyId: copyIdSchema,
    change: copyChangeSchema,
    sealed: z.base64(),
    phrases: twoPhrases,
    newPassword: z.string(),
  }),
  nothing,
);

/** Takes the shop's key out of a copy. @throws Failure `archive-in-use`, `rack-not-here`, `archive-not-here`. */
export const withdrawEscrowOrder = order(
  'withdraw-escrow',
  z.object({ copyId: copyIdSchema }),
  nothing,
);

/** What pruning a copy would free, bytes. @throws Failure `wrong-password`, `archive-in-use`. */
export const weighPruningOrder = order(
  'weigh-pruning',
  placeSchema.extend({ password: z.string(), keep: z.array(z.uuid()) }),
  z.object({ freedBytes: z.int() }),
);

/** Gives up a backup that was cut off. @throws Failure `archive-in-use`. */
export const discardOrder = order('discard', placeSchema.extend({ backup: z.uuid() }), nothing);
