import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Package } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { presentRacks } from './stores.js';

/** Packages lie in a folder of their own on a rack: what is put there can be taken in, what is exported is found there. */
export const PACKAGES = 'packages';
export const PACKAGE_ENDING = '.tar.age';

/** Packages on every rack that is there, newest first. */
export async function listPackages(db: Database): Promise<Package[]> {
  const found: Package[] = [];
  for (const rack of await presentRacks(db)) {
    const { mounted } = rack.store;
    if (mounted === null) continue;
    const folder = join(mounted, PACKAGES);
    const names = await readdir(folder).catch(() => [] as string[]);
    for (const name of names.filter((n) => n.endsWith(PACKAGE_ENDING))) {
      const info = await stat(join(folder, name)).catch(() => null);
      if (!info?.isFile()) continue;
      const { size: bytes, mtime } = info;
      found.push({
        rackId: rack.id,
        rackName: rack.name,
        name,
        bytes,
        modified: mtime.toISOString(),
      });
    }
  }
  return found.sort((a, b) => (a.modified < b.modified ? 1 : -1));
}
