import { z } from 'zod';

export const sftpAddressSchema = z.object({
  kind: z.literal('sftp'),
  host: z.string().min(1),
  port: z.number().int().min(1).max(65_535),
  user: z.string().min(1),
  /** Folder of the rack on the box; from the folder that one arrives in where it does not begin with `/`. */
  path: z.string().min(1),
  /** SHA-256 of the box's host key, base64; null where nobody has said yet that it is the right one. */
  hostKey: z.string().nullable(),
  /** What one signs in with: a password, or a private key in the form that OpenSSH writes. */
  login: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('password'), password: z.string() }),
    z.object({ kind: z.literal('key'), privateKey: z.string() }),
  ]),
  /** Folder of this computer for what will come onto it. */
  workRoot: z.string().min(1),
});
export type SftpAddress = z.infer<typeof sftpAddressSchema>;
