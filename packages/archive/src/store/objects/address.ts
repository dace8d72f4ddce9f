import { z } from 'zod';

export const objectsAddressSchema = z.object({
  kind: z.literal('objects'),
  /** Where the storage answers, as `https://host:port`. */
  endpoint: z.url({ protocol: /^https?$/ }),
  region: z.string().min(1),
  bucket: z.string().min(1),
  /** What all names in the bucket begin with: empty, or ending with `/`. */
  prefix: z.string().regex(/^(?:[^/].*\/)?$/),
  /** Bytes that the shop may have there: such storage says nothing of its room. */
  capacity: z.number().int().positive(),
  login: z.object({ accessKey: z.string(), secretKey: z.string() }),
  /** Folder of this computer for what will come onto it. */
  workRoot: z.string().min(1),
});
export type ObjectsAddress = z.infer<typeof objectsAddressSchema>;
