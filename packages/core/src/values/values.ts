import { z } from 'zod';

/** Small values that many shapes are made of: parsed wherever they come in. */
export const idSchema = z.uuid();
/** ISO 8601, UTC. */
export const instantSchema = z.iso.datetime();
/** Bytes; decimal units are a matter of showing them. */
export const byteCountSchema = z.int().min(0);
export const itemCountSchema = z.int().min(0);
export const ticketNumberSchema = z.string().regex(/^\d{6,12}$/, 'A ticket number is digits only.');
export const archiveIdSchema = idSchema.brand<'ArchiveId'>();
export type ArchiveId = z.infer<typeof archiveIdSchema>;
export const backupIdSchema = idSchema.brand<'BackupId'>();
export type BackupId = z.infer<typeof backupIdSchema>;
/** An archive as it lies on one rack. */
export const copyIdSchema = idSchema.brand<'CopyId'>();
export type CopyId = z.infer<typeof copyIdSchema>;
export const rackIdSchema = idSchema.brand<'RackId'>();
export type RackId = z.infer<typeof rackIdSchema>;
/** A device as the catalogue knows it: the same for all its visits. */
export const deviceIdSchema = idSchema.brand<'DeviceId'>();
export type DeviceId = z.infer<typeof deviceIdSchema>;
/** A device as the link names it, for as long as it is on the bench. */
export const linkDeviceSchema = z
  .string()
  .regex(/^[A-Za-z0-9_-]{1,64}$/)
  .brand<'LinkDeviceId'>();
export type LinkDeviceId = z.infer<typeof linkDeviceSchema>;
/** What a technician reads off the device before something is done to it. */
export const serialTailSchema = z
  .string()
  .trim()
  .length(4, 'Type the last four characters of the serial.');
/** A file or folder below one of a rack's own folders: one name, no path. */
export const rackNameSchema = z.string().min(1).max(255);

/** A password of a backup. It stands in bodies only, is never stored and never logged. */
export const backupPasswordSchema = z.string().min(1, 'Type the password.').max(1024);
/** The password of an archive that is there: typed here, or empty where the customer typed it on their own page. */
export const knownPasswordSchema = z
  .object({ fromDesk: z.boolean().default(false), password: z.string().max(1024) })
  .refine(({ fromDesk, password }) => fromDesk || password !== '', {
    path: ['password'],
    message: 'Type the password.',
  });
/** Who can hold an archive’s password. */
export const passwordHolders: Readonly<Record<string, string>> = {
  customer: 'the customer',
  shop: 'the shop',
  both: 'the customer and the shop',
  nobody: 'nobody: it is not encrypted',
};

/** Who holds the password, and what reminds them of it. Neither is the password. */
export const passwordHolderShape = {
  passwordHolder: z.enum(['customer', 'shop', 'both']),
  reminder: z.string().trim().max(200),
};

export const amountSchema = z.object({ items: itemCountSchema, bytes: byteCountSchema });
