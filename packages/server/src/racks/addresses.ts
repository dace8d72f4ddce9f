import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { storeAddressSchema, type StoreAddress } from '@bright-cellar/archive';
import { Failure, rackSiteSchema, type RackSite } from '@bright-cellar/core';
import { z } from 'zod';
import type { Versioned } from '../database/schema.js';
import { installationFolder, openSecret, sealSecret } from '../kernel/installation.js';

const VERSION = 2;

/** A rack's site as its row keeps it: what one signs in with is sealed, and is never read by anybody but who signs in. */
const keptSchema = z.object({ site: rackSiteSchema, secret: z.string().nullable() });
type Kept = z.infer<typeof keptSchema>;
/** The folder of a rack, as it was kept before there were others. */
const folderOnlySchema = z.object({ kind: z.literal('folder'), path: z.string() });

/** What a rack's row keeps of its address. @param secret what one signs in with; null where nobody does */
export function keptAddress(site: RackSite, secret: string | null = null): Versioned {
  const kept: Kept = { site, secret: secret === null ? null : sealSecret(secret) };
  return { version: VERSION, value: kept };
}

const parsed = ({ value }: Versioned): Kept => {
  const old = folderOnlySchema.safeParse(value).data;
  return old ? { site: old, secret: null } : keptSchema.parse(value);
};

/** Where a rack is, without what one signs in with. */
export const siteOf = (address: Versioned): RackSite => parsed(address).site;

/** Path of the folder of this computer in which a rack lies; null where it is reached over the network. */
export function mountedAt(address: Versioned): string | null {
  const site = siteOf(address);
  return site.kind === 'folder' ? site.path : null;
}

/** What opens a rack. @throws Failure `rack-not-here` where its secret was sealed by another installation */
export function addressOf(address: Versioned): StoreAddress {
  const { site, secret } = parsed(address);
  if (secret === null) return storeAddress(site, '');
  let opened: string;
  try {
    opened = openSecret(secret);
  } catch (error) {
    const what =
      'What one signs in to this rack with was sealed by another installation, and does not open here.';
    const next = 'Add the rack again, with what one signs in with.';
    throw new Failure('rack-not-here', { what, next }, { cause: error });
  }
  return storeAddress(site, opened);
}

/** The same of a site, with what one signs in with. */
export function storeAddress(site: RackSite, secret: string): StoreAddress {
  // What will come onto a rack that is not mounted is made in a folder of its own here.
  const workRoot = () =>
    join(
      installationFolder('staging'),
      createHash('sha256').update(JSON.stringify(site)).digest('hex').slice(0, 24),
    );
  switch (site.kind) {
    case 'folder':
      return site;
    case 'sftp': {
      const login =
        site.login === 'password'
          ? { kind: 'password', password: secret }
          : { kind: 'key', privateKey: secret };
      return storeAddressSchema.parse({ ...site, login, workRoot: workRoot() });
    }
    case 'objects': {
      const { accessKey, ...rest } = site;
      return storeAddressSchema.parse({
        ...{ ...rest, workRoot: workRoot(), login: { accessKey, secretKey: secret } },
      });
    }
  }
}
