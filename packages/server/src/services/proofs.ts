import { Failure } from '@bright-cellar/core';
import type { Operation, ProofLevel } from '@bright-cellar/contract';
import { presentCopy } from './archives.js';
import { archiveLock, startOperation } from './operations.js';
import { backupForWork, mustOpen, type Shop } from './shop.js';

export async function startProof(
  shop: Shop,
  backupId: string,
  { level, password }: { level: ProofLevel; password: string },
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  const copy = await presentCopy(db, archive.id);
  if (password !== '') await mustOpen(shop, copy.path, password, ticket.id, technicianId);
  else if (level !== 'bytes') throw new Failure('wrong-password');
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'prove',
      locks: [archiveLock(archive.id)],
      phase: 'opening',
      ticketId: ticket.id,
      deviceId: null,
      deviceName: device.name,
      archiveId: archive.id,
      backupId,
      startedBy: technicianId,
      action: 'proof-started',
      what: level === 'full' ? 'Proof started.' : `Look at the archive started: ${level}.`,
      input: {
        kind: 'prove',
        copyId: copy.id,
        level,
        expected: { items: backup.items, bytes: backup.bytes },
      },
    },
    password,
  );
}
