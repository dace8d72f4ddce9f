import { archiveLock, copyLock, Failure, formatBytes } from '@bright-cellar/core';
import { archiveForWork, workOn, copyById } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import { rackHere } from '../../racks/index.js';
import type { Start } from '../start.js';

export const startCheck: Start<'check'> = async (context, { id: copyId }) => {
  const { db } = context;
  const copy = await copyById(db, copyId);
  if (!copy) throw new Failure('not-found');
  const row = await archiveForWork(db, copy.archiveId);
  const { archive } = row;
  await rackHere(db, copy.rackId);
  return startOperation(
    context,
    {
      kind: 'check',
      // Backups are added to it meanwhile; a copy onto it would be sent where it is read.
      locks: [archiveLock(archive.id, 'shared'), copyLock(archive.id, copy.rackId)],
      ...workOn(row),
      what: `Check started: ${formatBytes(copy.storedBytes)} on ${copy.rackName}.`,
      input: { copyId, rackName: copy.rackName },
    },
    {},
  );
};
