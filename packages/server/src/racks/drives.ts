import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { folderStore } from './stores.js';

/** A folder that a drive or a share may be mounted on. */
export interface Mounted {
  path: string;
  /** The rack that lies there, by its own mark; null where none does. */
  rack: string | null;
}

/** Below a place where drives appear they stand in a folder of their own, or one deeper, by who is signed in. */
const DEPTH = 2;
/** Ends a place in which every folder is a medium, whether the system says so or not. */
const ALL = '/*';
/** More than so many are no drives. */
const MOST = 200;

/** What lies in the places where drives appear: everything that is a rack, and everything that is a medium of its own. */
export async function mountedDrives(places: readonly string[]): Promise<Mounted[]> {
  const found: Mounted[] = [];
  for (const place of places) {
    if (place.endsWith(ALL)) await look(place.slice(0, -ALL.length), 1, found, true);
    else await look(place, DEPTH, found);
  }
  return found;
}

async function look(
  folder: string,
  depth: number,
  found: Mounted[],
  areAllMedia = false,
): Promise<void> {
  const inside = await readdir(folder, { withFileTypes: true }).catch(() => []);
  const above = await stat(folder).catch(() => null);
  for (const entry of inside) {
    if (!entry.isDirectory() || found.length >= MOST) continue;
    const path = join(folder, entry.name);
    const rack = await folderStore(path)
      .identity()
      .catch(() => null);
    const isMedium = areAllMedia || (await stat(path).catch(() => null))?.dev !== above?.dev;
    if (rack !== null || isMedium) found.push({ path, rack });
    else if (depth > 1) await look(path, depth - 1, found);
  }
}
