import { archiveLock, Failure } from '@bright-cellar/core';
import { backupForWork, mustOpen, presentCopy } from '../../archives/index.js';
import { startOperation } from '../../engine/index.js';
import type { Start } from '../start.js';

export const startProof: Start<'prove'> = async (context, { id: backupId }, body) => {
  const { backup, archive, device, ticket } = await backupForWork(context.db, backupId);
  return context.desks.use(device.id, body, 'proof', 'forget', async ({ level, password }) => {
    const copy = await presentCopy(context.db, archive.id);
    if (password !== '') await mustOpen(context, copy, password, ticket.id);
    else if (level !== 'bytes') throw new Failure('wrong-password');
    return startOperation(
      context,
      {
        kind: 'prove',
        // Without its password nobody can tell what was added meanwhile from what should not be there.
        locks: [archiveLock(archive.id, password === '' ? 'update' : 'shared')],
        ticketId: ticket.id,
        ticketNumber: ticket.number,
        deviceId: null,
        deviceName: device.name,
        archiveId: archive.id,
        backupId,
        what: level === 'full' ? 'Proof started.' : `Look at the archive started: ${level}.`,
        input: {
          copyId: copy.id,
          level,
          expected: { items: backup.items, bytes: backup.bytes },
        },
      },
      { password },
    );
  });
};
