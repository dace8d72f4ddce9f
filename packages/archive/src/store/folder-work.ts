import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { rm, rmdir } from '../disk/medium.js';
import { PENDING } from '../format/layout.js';

/** Where a new archive grows until it is whole: beside its place, in a folder that nothing lists. */
export const stagingName = (archive: string) => `.unfinished-${archive}`;
/** A file that is being put into an archive. */
export const DRAFT = 'put-';

/** Folders of work that cannot go on. Whoever has the archive's lease clears them away. */
const passing = ['foundation', 'holders', 'prune', 'rekey', 'reindex', 'roster', 'commit-draft'];

/** Clears away what was left behind by work that was cut off and does not go on from it. */
export async function tidyPending(folder: string): Promise<void> {
  try {
    const names = await readdir(join(folder, PENDING)).catch(() => [] as string[]);
    for (const name of names.filter((n) => passing.includes(n) || n.startsWith(DRAFT))) {
      await rm(join(folder, PENDING, name), { recursive: true, force: true });
    }
    if (names.length > 0) await rmdir(join(folder, PENDING)).catch(() => undefined);
  } catch {
    // A medium that cannot be written keeps it.
  }
}
