import {
  failedCount,
  isProblem,
  knownOfBackup,
  provenBackupOf,
  type BackupEvidence,
  type DeviceFacts,
  type Problem,
  type ProvenBackup,
  type ArchiveId,
  type BackupId,
  type CopyId,
} from '@bright-cellar/core';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import { archives, backups, devices, proofs, tickets } from '../database/schema.js';
import { readSettings } from '../settings/index.js';
import type { Shop } from '../shop.js';
import { presentCopies, type PresentCopy } from './archives.js';

/** What a device's erase would rest on, and what is there of it now. */
interface Proven {
  proven: ProvenBackup | Problem;
  /** The copy that was proven, as it was then. */
  copy: { id: CopyId; expected: { archive: ArchiveId; digest: string } } | null;
  /** Of the device’s newest backup. */
  ticket: { id: string; number: string } | null;
}

/** The proven backup that makes it safe to erase this device, or why there is none. Every copy of every backup is judged by itself. */
export async function provenFor(shop: Shop, facts: DeviceFacts): Promise<Proven> {
  const rows = await shop.db
    .select({ backup: backups, ticket: { id: tickets.id, number: tickets.number } })
    .from(backups)
    .innerJoin(archives, eq(archives.id, backups.archiveId))
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .innerJoin(tickets, eq(tickets.id, archives.ticketId))
    .where(
      and(eq(devices.serial, facts.serial), isNull(archives.disposedAt), isNull(backups.prunedIn)),
    )
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
        const { provenAt: at } = knownOfBackup(looks(backup.id, copy));
        return {
          backupId: backup.id,
          copyId: copy.id,
          deviceSerial: facts.serial,
          contentRevision: backup.contentRevision,
          everything: backup.scope.everything,
          failedItems: failedCount(backup.failed),
          provenAt: at ? new Date(at) : null,
        };
      }),
  );
  // Backups none of whose copies is here are known all the same: what is missing can be said better then.
  const away = rows.filter(({ backup }) => !evidence.some((e) => e.backupId === backup.id));
  const unproven = away.map(({ backup }): BackupEvidence => ({
    backupId: backup.id,
    copyId: null,
    deviceSerial: facts.serial,
    contentRevision: backup.contentRevision,
    everything: backup.scope.everything,
    failedItems: failedCount(backup.failed),
    provenAt: null,
  }));
  const { proofAge } = await readSettings(shop.db);
  const proven = provenBackupOf(facts, [...evidence, ...unproven], {
    now: shop.clock.now(),
    proofAge,
  });
  const copy = isProblem(proven) ? undefined : present.find(({ id }) => id === proven.copyId);
  return {
    proven,
    copy: copy ? { id: copy.id, expected: { archive: copy.archiveId, digest: copy.digest } } : null,
    ticket: rows[0]?.ticket ?? null,
  };
}

/** What was found of backups in each of their copies, newest first. */
async function looksAt(shop: Shop, backupIds: readonly BackupId[]) {
  const rows = backupIds.length
    ? await shop.db
        .select()
        .from(proofs)
        .where(inArray(proofs.backupId, [...backupIds]))
        .orderBy(desc(proofs.sequence))
    : [];
  return (backupId: BackupId, copy: PresentCopy) =>
    rows
      .filter((row) => row.backupId === backupId && row.copyId === copy.id)
      .map((row) => ({
        ...row,
        at: row.at.toISOString(),
        current: row.generation === copy.generation,
        gone: false,
      }));
}
