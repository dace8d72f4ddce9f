import { entrySchema } from '@bright-cellar/device-link';
import { z } from 'zod';

/**
 * Between the server and the work process: HTTP on a socket that only this user may open. Passwords
 * cross it in request bodies and are kept by neither side longer than the work takes.
 */
export const tryPasswordSchema = z.object({ folder: z.string(), password: z.string() });
export const startSchema = z.object({
  id: z.uuid(),
  password: z.string(),
  packagePassword: z.string(),
});
/** What is written down of a change of a copy, once it is made. */
const copyChangeSchema = z.object({
  archive: z.object({ passwordHolder: z.string(), reminder: z.string() }),
  audit: z.object({
    technicianId: z.uuid(),
    ticketId: z.uuid(),
    action: z.enum(['password-changed', 'escrow-opened']),
    what: z.string(),
  }),
});
export const changePasswordSchema = z.object({
  copyId: z.uuid(),
  password: z.string(),
  newPassword: z.string(),
  change: copyChangeSchema,
});
export const compareSchema = z.object({
  folder: z.string(),
  password: z.string(),
  device: z.string(),
  choice: z.record(z.string(), z.boolean()),
});
export const comparedSchema = z.object({
  same: z.object({ items: z.int(), bytes: z.int() }),
  toSend: z.object({ items: z.int(), bytes: z.int() }),
  /** The device's own ids of what would be sent. */
  ids: z.array(z.string()),
});
export type ComparedDevice = z.infer<typeof comparedSchema>;
/** Entries to read and pack, of which nothing is kept. */
export const measureSchema = z.object({
  device: z.string(),
  entries: z.array(entrySchema).max(2000),
});
export const measuredSchema = z.array(
  z.object({
    id: z.string(),
    /** Bytes read of it: all, or its beginning. */
    bytes: z.int(),
    storedBytes: z.int(),
    ms: z.number(),
    /** Of what was read. */
    digest: z.string(),
  }),
);
export type Measured = z.infer<typeof measuredSchema>;
export const pauseSchema = z.object({ id: z.uuid(), paused: z.boolean() });
const twoPhrases = z.tuple([z.string(), z.string()]);
export const newEscrowSchema = z.object({ phrases: twoPhrases });
export const escrowSchema = z.object({ recipient: z.string(), sealed: z.base64() });
export const openByEscrowSchema = z.object({
  copyId: z.uuid(),
  change: copyChangeSchema,
  sealed: z.base64(),
  phrases: twoPhrases,
  newPassword: z.string(),
});
export const copySchema = z.object({ copyId: z.uuid() });
export const discardSchema = z.object({ folder: z.string(), backup: z.uuid() });
export const stopSchema = z.object({ id: z.uuid() });
export const changeSchema = z.object({ operation: z.uuid() });
