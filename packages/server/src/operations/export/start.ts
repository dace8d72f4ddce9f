import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { mkdirInside, STICK_PAGE } from '@bright-cellar/archive';
import { archiveLock, Failure, formatBytes } from '@bright-cellar/core';
import { backupForWork, mustOpen, presentCopy } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import { folderOf, PACKAGE_ENDING, PACKAGES, rackWithRoom } from '../../racks/index.js';
import type { Start } from '../start.js';

/** tar and age add little to the contents. */
const PACKAGE_OVERHEAD = 1.05;

export const startExport: Start<'export'> = async (context, { id: backupId }, body) => {
  const { db } = context;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  return context.desks.use(
    device.id,
    body,
    'package',
    'hold',
    async ({ rackId, password, form }) => {
      const rack = await rackWithRoom(db, rackId, Math.ceil(backup.bytes * PACKAGE_OVERHEAD));
      const copy = await presentCopy(db, archive.id);
      await mustOpen(context, copy, password, ticket.id);
      const folder = join(folderOf(rack), PACKAGES);
      await mkdirInside(folderOf(rack), folder);
      const called = `${copy.folder}_${backupId.slice(0, 8)}`;
      const name = form === 'file' ? `${called}${PACKAGE_ENDING}` : called;
      // A stick without its page was cut off, and is gone on with.
      if (existsSync(form === 'file' ? join(folder, name) : join(folder, name, STICK_PAGE))) {
        throw new Failure('already-exists', {
          what: `The ${form === 'file' ? 'package' : 'stick'} of this backup is on ${rack.name} already.`,
        });
      }
      return startOperation(
        context,
        {
          kind: 'export',
          locks: [archiveLock(archive.id, 'shared')],
          ticketId: ticket.id,
          ticketNumber: ticket.number,
          deviceId: null,
          deviceName: device.name,
          archiveId: archive.id,
          backupId,
          what: `Export started: ${formatBytes(backup.bytes)} onto ${rack.name}.`,
          input: {
            form,
            copyId: copy.id,
            to: { rackId: rack.id, name },
            expected: { items: backup.items, bytes: backup.bytes },
          },
        },
        { password },
      );
    },
  );
};
