import { randomUUID } from 'node:crypto';
import {
  Failure,
  type DeviceId,
  archiveIdSchema,
  type ArchiveId,
  type RackId,
} from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { mustOpen, copyToChange } from '../../archives/index.js';
import type { Database } from '../../database/connect.js';
import { archives } from '../../database/schema.js';
import { folderOf, freeName, rackWithRoom } from '../../racks/index.js';
import type { Context } from '../../shop.js';

/** Frames, the index and the bag's own files come on top of the contents. */
export const STORED_OVERHEAD = 1.02;

/** Where a backup goes. */
export interface Place {
  rackId: RackId;
  rackName: string;
  /** The archive's name on the rack. */
  folder: string;
  archive: ArchiveId;
  isNew: boolean;
}

/** Room for a new archive. @throws Failure `input-not-valid` where no rack is chosen, `rack-full`, `rack-not-here` */
export async function newPlace(
  db: Database,
  rackId: RackId | null,
  bytes: number,
  name: string,
): Promise<Place> {
  if (rackId === null) throw new Failure('input-not-valid', { next: 'Choose a rack.' });
  const rack = await rackWithRoom(db, rackId, bytes);
  // A device is not kept waiting for a network: what lies elsewhere is copied there after.
  folderOf(rack);
  const folder = await freeName(rack.store, name);
  return {
    rackId: rack.id,
    rackName: rack.name,
    folder,
    archive: archiveIdSchema.parse(randomUUID()),
    isNew: true,
  };
}

/** An archive of the same device that is there, and that the password opens. */
export async function knownPlace(
  context: Context,
  archive: ArchiveId,
  deviceId: DeviceId,
  password: string,
  ticketId: string,
): Promise<Place> {
  const { db } = context;
  const [row] = await db.select().from(archives).where(eq(archives.id, archive));
  if (!row) throw new Failure('not-found');
  if (row.deviceId !== deviceId) throw new Failure('archive-of-another');
  const copy = await copyToChange(db, archive);
  await mustOpen(context, copy, password, ticketId);
  const { folder, rackId, rackName } = copy;
  return { rackId, rackName, folder, archive, isNew: false };
}
