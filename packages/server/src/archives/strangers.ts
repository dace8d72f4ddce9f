import { realpath } from 'node:fs/promises';
import { basename, isAbsolute } from 'node:path';
import {
  archiveIn,
  ArchiveFiles,
  archivesBelow,
  lookAtArchive,
  readPayload,
} from '@bright-cellar/archive';
import { archiveIdSchema, Failure, problemOf } from '@bright-cellar/core';
import type { Stranger } from '@bright-cellar/contract';
import { eq } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { archives, copies, devices } from '../database/schema.js';
import { readDecided, restoredFrom } from '../settings/index.js';
import { presentRacks } from '../racks/index.js';

/** More are not shown at once: bring these in first. */
const MOST = 300;

/**
 * Archives that lie on racks, or below a folder of this computer, and that the catalogue does not know there; where it was brought
 * back from a save, also those that were changed since that was made.
 */
export async function strangers(db: Database, path: string): Promise<Stranger[]> {
  if (path !== '') return belowFolder(db, path);
  const found: Stranger[] = [];
  const mayHaveMovedOn = restoredFrom(await readDecided(db)) !== null;
  for (const rack of await presentRacks(db)) {
    const own = await db.select().from(copies).where(eq(copies.rackId, rack.id));
    const known = new Map(own.map(({ folder, digest }) => [folder, digest]));
    const names = await rack.store.folders().catch(() => []);
    for (const folder of names.filter((name) => !others.has(name))) {
      if (found.length === MOST) return found;
      const place = { rackId: rack.id, rackName: rack.name, folder, path: null };
      const digest = known.get(folder);
      if (digest !== undefined) {
        if (!mayHaveMovedOn) continue;
        const now = await readPayload(new ArchiveFiles(rack.store, folder)).catch(() => null);
        if (now === null || now.digest === digest) continue;
      }
      const stranger = await strangerIn(db, new ArchiveFiles(rack.store, folder), place);
      if (stranger) found.push(stranger);
    }
  }
  return found;
}

/** What lies on a rack beside archives. */
const others: ReadonlySet<string> = new Set(['packages', 'extracts', 'incoming']);

async function belowFolder(db: Database, wanted: string): Promise<Stranger[]> {
  const path = isAbsolute(wanted) ? await realpath(wanted).catch(() => null) : null;
  if (path === null) {
    throw new Failure('input-not-valid', {
      what: 'No such folder is there.',
      safe: 'Nothing was changed.',
      next: 'Say the whole path of a folder that is there, as this computer sees it.',
    });
  }
  const found: Stranger[] = [];
  for (const folder of (await archivesBelow(path)).slice(0, MOST)) {
    const place = { rackId: null, rackName: '', folder: basename(folder), path: folder };
    const stranger = await strangerIn(db, archiveIn(folder), place);
    if (stranger) found.push(stranger);
  }
  return found;
}

/** Null where no archive lies. */
async function strangerIn(
  db: Database,
  files: ArchiveFiles,
  place: Pick<Stranger, 'rackId' | 'rackName' | 'folder' | 'path'>,
): Promise<Stranger | null> {
  const nothing = { storedBytes: 0, backups: 0, missing: 0, known: 'unknown' as const };
  try {
    const { archive, digest, storedBytes, backups, missing } = await lookAtArchive(files);
    const id = archiveIdSchema.parse(archive);
    const rows = await db
      .select({ digest: copies.digest, name: devices.name })
      .from(archives)
      .innerJoin(devices, eq(devices.id, archives.deviceId))
      .leftJoin(copies, eq(copies.archiveId, archives.id))
      .where(eq(archives.id, id));
    const isSame = rows.some((row) => row.digest === digest);
    return {
      ...{ ...place, storedBytes, backups, missing, problem: '' },
      known: rows.length === 0 ? 'unknown' : isSame ? 'same' : 'other',
      deviceName: rows[0]?.name ?? '',
    };
  } catch (error) {
    const { code, what } = problemOf(error);
    if (code === 'archive-not-here') return null;
    return { ...place, ...nothing, deviceName: '', problem: what };
  }
}
