import { archiveLock, Failure, formatBytes } from '@bright-cellar/core';
import { archiveForWork, workOn, copyById, presentCopies } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import { rackHere } from '../../racks/index.js';
import type { Start } from '../start.js';

export const startRepair: Start<'repair'> = async (context, { id: copyId }) => {
  const { db } = context;
  const copy = await copyById(db, copyId);
  if (!copy) throw new Failure('not-found');
  const row = await archiveForWork(db, copy.archiveId);
  const { archive } = row;
  await rackHere(db, copy.rackId);
  const from = (await presentCopies(db, archive.id)).find(
    ({ id, state }) => id !== copyId && state !== 'damaged',
  );
  if (!from) {
    throw new Failure('archive-not-here', {
      what: 'No other copy of this archive is here that is not damaged itself.',
      safe: 'Nothing was changed.',
      next: 'Connect a rack that has one, or take a new backup of the device.',
    });
  }
  return startOperation(
    context,
    {
      kind: 'repair',
      locks: [archiveLock(archive.id, 'exclusive')],
      ...workOn(row),
      what: `Repair started: ${formatBytes(copy.storedBytes)} on ${copy.rackName}, from ${from.rackName}.`,
      input: {
        ...{ copyId, fromId: from.id, rackName: copy.rackName, fromName: from.rackName },
        storedBytes: copy.storedBytes,
      },
    },
    {},
  );
};
