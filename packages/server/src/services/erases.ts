import {
  eraseOrder,
  Failure,
  formatBytes,
  isProblem,
  provenBackupOf,
  totalOf,
  type BackupEvidence,
  type DeviceFacts,
  type Problem,
  type ProvenBackup,
} from '@bright-cellar/core';
import type { Operation } from '@bright-cellar/contract';
import { desc, eq } from 'drizzle-orm';
import { archives, backups, devices } from '../database/schema.js';
import { backupsOf, presentCopy, provenAt } from './archives.js';
import { startOperation } from './operations.js';
import { mustBeFree, type Shop } from './shop.js';

/** The proven backup that makes it safe to erase this device, or why there is none. */
export async function provenFor(
  shop: Shop,
  facts: DeviceFacts,
): Promise<{ proven: ProvenBackup | Problem; ticketId: string | null }> {
  const rows = await shop.db
    .select({ backup: backups, ticketId: archives.ticketId })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(backups.takenAt));
  const described = await backupsOf(shop.db, [...new Set(rows.map((r) => r.backup.archiveId))]);
  const evidence: BackupEvidence[] = [];
  for (const { backup } of rows) {
    const proof = described.find((d) => d.id === backup.id);
    // A backup that is not on its rack now protects nobody.
    const here = await presentCopy(shop.db, backup.archiveId).then(
      () => true,
      () => false,
    );
    const at = proof && here ? provenAt(proof) : null;
    evidence.push({
      backupId: backup.id,
      deviceSerial: facts.serial,
      contentRevision: backup.contentRevision,
      everything: backup.scope.everything,
      failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
      provenAt: at ? new Date(at) : null,
    });
  }
  return { proven: provenBackupOf(facts, evidence), ticketId: rows[0]?.ticketId ?? null };
}

export async function eraseReadiness(shop: Shop, deviceId: string) {
  const facts = await shop.bench.freshFacts(deviceId);
  const { proven } = await provenFor(shop, facts);
  const held = totalOf(facts.content ?? []);
  const loses = facts.empty
    ? 'The device is empty already.'
    : `Everything on ${facts.name} is lost: ${held.items} items, ${formatBytes(held.bytes)}.`;
  return isProblem(proven)
    ? { allowed: false, because: proven.what, next: proven.next, loses }
    : {
        allowed: !facts.empty,
        because: 'Its backup is proven and holds what is on it now.',
        next: null,
        loses,
      };
}

export async function startErase(
  shop: Shop,
  deviceId: string,
  typedTail: string,
  technicianId: string,
): Promise<Operation> {
  const facts = await shop.bench.freshFacts(deviceId);
  await mustBeFree(shop.db, facts.serial);
  const { proven, ticketId } = await provenFor(shop, facts);
  if (isProblem(proven)) throw new Failure(proven.code, proven);
  const order = eraseOrder(facts, proven, typedTail);
  if (isProblem(order)) throw new Failure(order.code, order);
  return startOperation(
    shop.db,
    shop.orders,
    {
      kind: 'erase',
      holds: order.device.serial,
      phase: 'erasing',
      ticketId,
      deviceId: order.device.id,
      deviceName: order.device.name,
      archiveId: null,
      backupId: order.proof.backupId,
      startedBy: technicianId,
      action: 'erase-started',
      what: `Erase started on ${facts.familyName} ${facts.model} ${facts.serial}.`,
      input: { kind: 'erase', serial: order.device.serial, provenBackupId: order.proof.backupId },
    },
    '',
  );
}
