import { randomUUID } from 'node:crypto';
import { archiveLock, Failure, formatBytes, backupIdSchema } from '@bright-cellar/core';
import { archiveForWork, copyToChange, mustOpen } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import { listPackages, rackWithRoom } from '../../racks/index.js';
import type { Start } from '../start.js';

export const startImport: Start<'import'> = async (context, { id: archiveId }, wanted) => {
  const { db } = context;
  const { device, ticket } = await archiveForWork(db, archiveId);
  const found = (await listPackages(db)).find(
    (p) => p.rackId === wanted.rackId && p.name === wanted.name,
  );
  if (!found) throw new Failure('not-found');
  const copy = await copyToChange(db, archiveId);
  await mustOpen(context, copy, wanted.password, ticket.id);
  await rackWithRoom(db, copy.rackId, found.bytes);
  return startOperation(
    context,
    {
      kind: 'import',
      locks: [archiveLock(archiveId, 'update')],
      ticketId: ticket.id,
      ticketNumber: ticket.number,
      deviceId: null,
      deviceName: device.name,
      archiveId,
      backupId: backupIdSchema.parse(randomUUID()),
      what: `Import started: a package of ${formatBytes(found.bytes)} from ${found.rackName}.`,
      input: {
        copyId: copy.id,
        from: { rackId: wanted.rackId, name: found.name },
        packageBytes: found.bytes,
        osVersion: device.osVersion,
        serial: device.serial,
      },
    },
    { password: wanted.password, packagePassword: wanted.packagePassword },
  );
};
