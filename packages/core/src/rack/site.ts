import { z } from 'zod';

/** Where a rack is, without what one signs in with. */
export const rackSiteSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('folder'),
    /** Absolute path on the shop computer. */
    path: z.string().min(1, 'Say which folder.').max(1024),
  }),
  z.object({
    kind: z.literal('sftp'),
    host: z.string().trim().min(1, 'Say which box.').max(253),
    port: z.int().min(1).max(65_535),
    user: z.string().trim().min(1, 'Say who signs in.').max(120),
    /** Folder there; from where one arrives unless it begins with `/`. */
    path: z.string().trim().min(1, 'Say which folder.').max(1024),
    /** SHA-256 of the box's host key, base64 as OpenSSH prints it: somebody compared it. */
    hostKey: z.string().min(1, 'Compare the host key first.').max(120),
    login: z.enum(['password', 'key']),
  }),
  z.object({
    kind: z.literal('objects'),
    endpoint: z.url({ protocol: /^https?$/ }).max(300),
    region: z.string().trim().min(1).max(60),
    bucket: z.string().trim().min(1, 'Say which bucket.').max(120),
    /** What the names of everything there begin with: empty, or ending with `/`. */
    prefix: z
      .string()
      .max(300)
      .regex(/^(?:[^/].*\/)?$/, 'It ends with a stroke, and begins with none.'),
    /** Bytes that the shop may have there. */
    capacity: z.int().positive('Say how much may lie there.'),
    accessKey: z.string().trim().min(1, 'Say which key.').max(300),
  }),
]);
export type RackSite = z.infer<typeof rackSiteSchema>;

/** Where a rack is, in one line. */
export function siteWords(site: RackSite): string {
  switch (site.kind) {
    case 'folder':
      return site.path;
    case 'sftp': {
      const port = site.port === 22 ? '' : `:${site.port}`;
      return `sftp://${site.user}@${site.host}${port}/${site.path.replace(/^\//, '')}`;
    }
    case 'objects':
      return `${site.endpoint.replace(/\/$/, '')}/${site.bucket}/${site.prefix}`;
  }
}
