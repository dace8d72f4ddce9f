import { copyBegun } from '@bright-cellar/archive';
import { archiveLock, copyLock, Failure, formatBytes } from '@bright-cellar/core';
import { archiveForWork, workOn, copiesOf, presentCopy } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import { freeName, rackWithRoom } from '../../racks/index.js';
import type { Start } from '../start.js';

export const startCopy: Start<'copy'> = async (context, { id: archiveId }, { rackId }) => {
  const { db } = context;
  const row = await archiveForWork(db, archiveId);
  const { archive } = row;
  const from = await presentCopy(db, archive.id);
  const hasEscrow = archive.escrow || from.escrowOwed;
  const there = (await copiesOf(db, archive.id)).find((copy) => copy.rackId === rackId);
  if (there && (there.id === from.id || there.generation >= from.generation)) {
    throw new Failure('already-exists', {
      what: `${there.rackName} has this archive already, in the state that it has here.`,
      next: 'Choose another rack.',
    });
  }
  const rack = await rackWithRoom(
    db,
    rackId,
    Math.max(0, from.storedBytes - (there?.storedBytes ?? 0)),
  );
  const folder =
    there?.folder ??
    // What was sent by a copy that was cut off is under the name that it was to have.
    (await freeName(
      rack.store,
      from.folder,
      async (files) => (await copyBegun(files)) === archiveId,
    ));
  return startOperation(
    context,
    {
      kind: 'copy',
      locks: [archiveLock(archive.id, 'shared'), copyLock(archive.id, rack.id)],
      ...workOn(row),
      what: `Copy started: ${formatBytes(from.storedBytes)} from ${from.rackName} onto ${rack.name}.`,
      input: { copyId: from.id, to: { rackId: rack.id, folder }, rackName: rack.name, hasEscrow },
    },
    {},
  );
};
