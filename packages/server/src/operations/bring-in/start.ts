import { realpath } from 'node:fs/promises';
import { basename, isAbsolute } from 'node:path';
import {
  archiveIn,
  ArchiveFiles,
  copyBegun,
  lookAtArchive,
  type FoundArchive,
} from '@bright-cellar/archive';
import { archiveIdSchema, archiveLock, copyIdSchema, copyLock, Failure } from '@bright-cellar/core';
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { copiesOf, mustOpen } from '../../archives/index.js';
import type { Database } from '../../database/connect.js';
import { archives } from '../../database/schema.js';
import { startOperation } from '../../engine/index.js';
import { freeName, rackHere, rackWithRoom } from '../../racks/index.js';
import type { Start } from '../start.js';

/** What an archive is called where it is copied to, when its folder has a name that no archive should have. */
const usable = (name: string, archive: string) =>
  /^[\p{L}\p{N}][\p{L}\p{N}_.-]{0,119}$/u.test(name) ? name : `brought-in_${archive.slice(0, 8)}`;

export const startBringIn: Start<'bringIn'> = async (context, _, wanted) => {
  const { db } = context;
  const rack = await rackHere(db, wanted.rackId);
  const path = wanted.path === null ? null : await folderAt(wanted.path);
  let from: ArchiveFiles;
  if (path !== null) from = archiveIn(path);
  else {
    // A name is one that is there, and never a way to somewhere else.
    const isThere = (await rack.store.folders()).some((name) => name === wanted.folder);
    if (!isThere || wanted.folder === null) throw new Failure('archive-not-here');
    from = new ArchiveFiles(rack.store, wanted.folder);
  }
  const found = await lookAtArchive(from);
  const archiveId = archiveIdSchema.parse(found.archive);
  const known = await knownOf(db, archiveId, found);
  const there = known.copies.find((copy) => copy.rackId === rack.id);
  const renamed = there && path === null && (await isGone(rack.store, there.folder)) ? there : null;
  // The catalogue was brought back from a save: what lies there was changed since, and is of that copy.
  const movedOn =
    path === null && there?.folder === from.name && there.digest !== found.digest ? there : null;
  if (there && !renamed && !movedOn) {
    throw new Failure('already-exists', {
      what: `${rack.name} has this archive already, as ${there.folder}.`,
      next: 'Bring it in onto another rack, or look after the one that is there.',
    });
  }
  if (!known.isSame && wanted.password === '') {
    throw new Failure('wrong-password', {
      what: 'Only its password says whose archive this is, and in which state.',
      next: 'Type the password of the archive.',
    });
  }
  const folder =
    path === null
      ? from.name
      : await freeName(
          (await rackWithRoom(db, rack.id, found.storedBytes)).store,
          usable(basename(path), found.archive),
          async (files) => (await copyBegun(files)) === found.archive,
        );
  if (wanted.password !== '' && path === null) {
    await mustOpen(context, { rackId: rack.id, folder }, wanted.password, null);
  }
  return startOperation(
    context,
    {
      kind: 'bringIn',
      locks: [archiveLock(archiveId, 'exclusive'), copyLock(archiveId, rack.id)],
      ...{ ticketId: null, ticketNumber: '', deviceId: null, deviceName: folder },
      ...{ archiveId, backupId: null },
      what: `Bringing in what was found ${path === null ? 'on' : 'for'} ${rack.name}.`,
      input: {
        ...{ rackId: rack.id, rackName: rack.name, folder, copied: path !== null },
        copyId: copyIdSchema.parse(randomUUID()),
        renamed: (renamed ?? movedOn)?.id ?? null,
      },
    },
    { password: wanted.password, fromFolder: path ?? '' },
  );
};

async function folderAt(wanted: string): Promise<string> {
  const path = isAbsolute(wanted) ? await realpath(wanted).catch(() => null) : null;
  if (path === null) {
    throw new Failure('input-not-valid', {
      what: 'No such folder is there.',
      safe: 'Nothing was changed.',
      next: 'Say the whole path of a folder that is there, as this computer sees it.',
    });
  }
  return path;
}

/** What the catalogue knows of an archive that was found. @throws Failure `archive-held` where it was to be destroyed */
async function knownOf(
  db: Database,
  archiveId: ReturnType<typeof archiveIdSchema.parse>,
  found: FoundArchive,
) {
  const [row] = await db.select().from(archives).where(eq(archives.id, archiveId));
  if (row?.disposedAt) {
    throw new Failure('archive-held', {
      what: 'It was decided to destroy this archive: what lies here is a copy that nobody knew of.',
      safe: 'It was not taken into the catalogue.',
      next: 'Delete that folder by hand, and say so on the certificate.',
    });
  }
  const copies = await copiesOf(db, archiveId);
  const isSame = found.digest !== '' && copies.some(({ digest }) => digest === found.digest);
  return { copies, isSame };
}

const isGone = async (store: ArchiveFiles['store'], folder: string) =>
  (await store.work(folder)).isNew;
