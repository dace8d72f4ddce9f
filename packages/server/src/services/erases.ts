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
import { desc, eq, inArray } from 'drizzle-orm';
import { archives, backups, devices, proofs } from '../database/schema.js';
import { presentCopies, provenAt, type PresentCopy } from './archives.js';
import { archiveLock, deviceLock, startOperation } from './operations.js';
import { readSettings } from './settings.js';
import { mustBeFree, type Shop } from './shop.js';

/** What a device's erase would rest on, and what is there of it now. */
interface Proven {
  proven: ProvenBackup | Problem;
  /** The copy that was proven, as it was then. */
  copy: { id: string; expected: { archive: string; digest: string } } | null;
  ticketId: string | null;
}

/** The proven backup that makes it safe to erase this device, or why there is none. Every copy of every backup is judged by itself. */
export async function provenFor(shop: Shop, facts: DeviceFacts): Promise<Proven> {
  const rows = await shop.db
    .select({ backup: backups, ticketId: archives.ticketId })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(backups.takenAt));
  const archiveIds = [...new Set(rows.map((r) => r.backup.archiveId))];
  const looks = await looksAt(
    shop,
    rows.map((r) => r.backup.id),
  );
  // A backup that is not on its rack now protects nobody.
  const present = (await Promise.all(archiveIds.map((id) => presentCopies(shop.db, id)))).flat();
  const evidence = rows.flatMap(({ backup }) =>
    present
      .filter((copy) => copy.archiveId === backup.archiveId)
      .map((copy): BackupEvidence => {
        const at = provenAt({ proofs: looks(backup.id, copy) });
        return {
          backupId: backup.id,
          copyId: copy.id,
          deviceSerial: facts.serial,
          contentRevision: backup.contentRevision,
          everything: backup.scope.everything,
          failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
          provenAt: at ? new Date(at) : null,
        };
      }),
  );
  // Backups none of whose copies is here are known all the same: what is missing can be said better then.
  const away = rows.filter(({ backup }) => !evidence.some((e) => e.backupId === backup.id));
  const unproven = away.map(({ backup }): BackupEvidence => ({
    backupId: backup.id,
    copyId: '',
    deviceSerial: facts.serial,
    contentRevision: backup.contentRevision,
    everything: backup.scope.everything,
    failedItems: backup.failed.reduce((sum, f) => sum + f.count, 0),
    provenAt: null,
  }));
  const { proofAge } = await readSettings(shop.db);
  const proven = provenBackupOf(facts, [...evidence, ...unproven], { now: new Date(), proofAge });
  const copy = isProblem(proven) ? undefined : present.find(({ id }) => id === proven.copyId);
  return {
    proven,
    copy: copy ? { id: copy.id, expected: { archive: copy.archiveId, digest: copy.digest } } : null,
    ticketId: rows[0]?.ticketId ?? null,
  };
}

/** What was found of backups in each of their copies, newest first. */
async function looksAt(shop: Shop, backupIds: readonly string[]) {
  const rows = backupIds.length
    ? await shop.db
        .select()
        .from(proofs)
        .where(inArray(proofs.backupId, [...backupIds]))
        .orderBy(desc(proofs.sequence))
    : [];
  return (backupId: string, copy: PresentCopy) =>
    rows
      .filter((row) => row.backupId === backupId && row.copyId === copy.id)
      .map((row) => ({
        ...row,
        at: row.at.toISOString(),
        current: row.generation === copy.generation,
      }));
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
  const { proven, copy, ticketId } = await provenFor(shop, facts);
  if (isProblem(proven)) throw new Failure(proven.code, proven);
  if (!copy) throw new Failure('archive-not-here');
  const order = eraseOrder(facts, proven, typedTail);
  if (isProblem(order)) throw new Failure(order.code, order);
  return startOperation(
    shop.db,
    shop.orders,
    {
      kind: 'erase',
      locks: [deviceLock(order.device.serial), archiveLock(copy.expected.archive)],
      phase: 'checking',
      ticketId,
      deviceId: order.device.id,
      deviceName: order.device.name,
      archiveId: copy.expected.archive,
      backupId: order.proof.backupId,
      startedBy: technicianId,
      action: 'erase-started',
      what: `Erase started on ${facts.familyName} ${facts.model} ${facts.serial}.`,
      input: {
        kind: 'erase',
        serial: order.device.serial,
        provenBackupId: order.proof.backupId,
        copyId: copy.id,
        contentRevision: order.proof.contentRevision,
        expected: copy.expected,
      },
    },
    '',
  );
}
