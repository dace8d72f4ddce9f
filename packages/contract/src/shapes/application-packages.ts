import { applicationManifestSchema, rackIdSchema } from '@bright-cellar/core';
import { z } from 'zod';

/** A package of one application, as it lies on a rack for a ticket. */
export const packageToldSchema = z.object({
  rackId: rackIdSchema,
  rackName: z.string(),
  name: z.string(),
  /** Null where it is no whole package. */
  about: applicationManifestSchema
    .pick({ id: true, name: true, applicationVersion: true, device: true })
    .extend({ files: z.int(), bytes: z.int() })
    .nullable(),
});
export type PackageTold = z.infer<typeof packageToldSchema>;

/** Where a package is sent, as it is: `POST`, onto the rack in the address. Asks for the permission `restore`. */
export const givenPackagePath = (number: string, rackId: string): string =>
  `/api/tickets/${number}/application-packages/${rackId}`;
export const PACKAGE_BYTES_MAX = 8e9;
