import { lstat, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import type { RecoveredFolder } from '@bright-cellar/contract';
import type { Database } from '../database/connect.js';
import { folderOf, presentRacks } from './stores.js';

/** What somebody recovered is put there, on any rack, as the folder that it came in. */
export const INCOMING = 'incoming';

/** Folders that wait to be taken over, by name, on every rack that is here. */
export async function listRecovered(db: Database): Promise<RecoveredFolder[]> {
  const found: RecoveredFolder[] = [];
  for (const rack of await presentRacks(db)) {
    const { mounted } = rack.store;
    if (mounted === null) continue;
    const inside = await readdir(join(mounted, INCOMING), { withFileTypes: true }).catch(() => []);
    for (const { name } of inside.filter((e) => e.isDirectory() && !e.name.startsWith('.'))) {
      found.push({ rackId: rack.id, rackName: rack.name, name });
    }
  }
  return found.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** A folder that waits, and its path. @throws Failure `not-found` */
export async function waiting(db: Database, rackId: string, name: string) {
  const found = (await listRecovered(db)).find((f) => f.rackId === rackId && f.name === name);
  const rack = (await presentRacks(db)).find((r) => r.id === rackId);
  if (!found || !rack) {
    throw new Failure('not-found', {
      what: 'That folder is not there any more.',
      next: `Put it into “${INCOMING}” on a rack that is here.`,
    });
  }
  return { path: join(folderOf(rack), INCOMING, found.name), rackName: rack.name };
}

/** How much such a folder holds. */
export async function measureRecovered(
  db: Database,
  rackId: string,
  name: string,
): Promise<{ items: number; bytes: number }> {
  const { path } = await waiting(db, rackId, name);
  const amount = { items: 0, bytes: 0 };
  const folders = [path];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    // What cannot be read is told by name when it is taken; here it only does not count.
    for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
      amount.items += 1;
      if (entry.isDirectory()) folders.push(join(folder, entry.name));
      const info = entry.isFile() ? await lstat(join(folder, entry.name)).catch(() => null) : null;
      amount.bytes += info?.size ?? 0;
    }
  }
  return amount;
}
