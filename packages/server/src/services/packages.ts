import { randomUUID } from 'node:crypto';
import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { mkdirInside } from '@bright-cellar/archive';
import { Failure, formatBytes } from '@bright-cellar/core';
import { newPasswordProblem } from '@bright-cellar/core/strength';
import type { Operation, Package } from '@bright-cellar/contract';
import { eq } from 'drizzle-orm';
import { archives, devices } from '../database/schema.js';
import { isThere, presentCopy } from './archives.js';
import { archiveLock, startOperation } from './operations.js';
import { presentRacks, rackWithRoom } from './racks.js';
import { backupForWork, mustOpen, type Shop } from './shop.js';

/** Packages lie in a folder of their own on a rack: what is put there can be taken in, what is exported is found there. */
const FOLDER = 'packages';
const ENDING = '.tar.age';
/** tar and age add little to the contents. */
const PACKAGE_OVERHEAD = 1.05;

/** Packages on every rack that is there, newest first. */
export async function listPackages({ db }: Shop): Promise<Package[]> {
  const found: Package[] = [];
  for (const rack of await presentRacks(db)) {
    const folder = join(rack.path, FOLDER);
    const names = await readdir(folder).catch(() => [] as string[]);
    for (const name of names.filter((n) => n.endsWith(ENDING))) {
      const info = await stat(join(folder, name)).catch(() => null);
      if (!info?.isFile()) continue;
      const { size: bytes, mtime } = info;
      found.push({
        rackId: rack.id,
        rackName: rack.name,
        name,
        bytes,
        modified: mtime.toISOString(),
      });
    }
  }
  return found.sort((a, b) => (a.modified < b.modified ? 1 : -1));
}

export async function startExport(
  shop: Shop,
  backupId: string,
  { rackId, password }: { rackId: string; password: string },
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const { backup, archive, device, ticket } = await backupForWork(db, backupId);
  const rack = await rackWithRoom(db, rackId, Math.ceil(backup.bytes * PACKAGE_OVERHEAD));
  const copy = await presentCopy(db, archive.id);
  await mustOpen(shop, copy.path, password, ticket.id, technicianId);
  await mkdirInside(rack.path, join(rack.path, FOLDER));
  const to = join(rack.path, FOLDER, `${copy.folder}_${backupId.slice(0, 8)}${ENDING}`);
  if (await isThere(to)) {
    throw new Failure('already-exists', {
      what: `The package of this backup is on ${rack.name} already.`,
    });
  }
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'export',
      locks: [archiveLock(archive.id)],
      phase: 'opening',
      ticketId: ticket.id,
      deviceId: null,
      deviceName: device.name,
      archiveId: archive.id,
      backupId,
      startedBy: technicianId,
      action: 'export-started',
      what: `Export started: ${formatBytes(backup.bytes)} onto ${rack.name}.`,
      input: {
        kind: 'export',
        copyId: copy.id,
        to,
        expected: { items: backup.items, bytes: backup.bytes },
      },
    },
    password,
  );
}

export async function startImport(
  shop: Shop,
  archiveId: string,
  wanted: { rackId: string; name: string; password: string; packagePassword: string },
  technicianId: string,
): Promise<Operation> {
  const { db } = shop;
  const [row] = await db
    .select({ archive: archives, device: devices })
    .from(archives)
    .innerJoin(devices, eq(devices.id, archives.deviceId))
    .where(eq(archives.id, archiveId));
  const found = (await listPackages(shop)).find(
    (p) => p.rackId === wanted.rackId && p.name === wanted.name,
  );
  const rack = (await presentRacks(db)).find(({ id }) => id === wanted.rackId);
  if (!row || !found || !rack) throw new Failure('not-found');
  const { archive, device } = row;
  const copy = await presentCopy(db, archiveId);
  await mustOpen(shop, copy.path, wanted.password, archive.ticketId, technicianId);
  await rackWithRoom(db, copy.rackId, found.bytes);
  return startOperation(
    db,
    shop.orders,
    {
      kind: 'import',
      locks: [archiveLock(archiveId)],
      phase: 'opening',
      ticketId: archive.ticketId,
      deviceId: null,
      deviceName: device.name,
      archiveId,
      backupId: randomUUID(),
      startedBy: technicianId,
      action: 'import-started',
      what: `Import started: a package of ${formatBytes(found.bytes)} from ${rack.name}.`,
      input: {
        kind: 'import',
        copyId: copy.id,
        from: join(rack.path, FOLDER, found.name),
        packageBytes: found.bytes,
        osVersion: device.osVersion,
        serial: device.serial,
      },
    },
    wanted.password,
    wanted.packagePassword,
  );
}

/** Gives an archive another password, in every copy that is there. */
export async function changeArchivePassword(
  shop: Shop,
  archiveId: string,
  wanted: { password: string; newPassword: string; passwordHolder: string; reminder: string },
  technicianId: string,
): Promise<void> {
  const { db } = shop;
  const [row] = await db.select().from(archives).where(eq(archives.id, archiveId));
  if (!row) throw new Failure('not-found');
  const weak = newPasswordProblem(wanted.newPassword);
  if (weak) throw new Failure(weak.code, weak);
  const copy = await presentCopy(db, archiveId);
  await mustOpen(shop, copy.path, wanted.password, row.ticketId, technicianId);
  const { passwordHolder, reminder } = wanted;
  await shop.orders.changePassword({
    copyId: copy.id,
    password: wanted.password,
    newPassword: wanted.newPassword,
    change: {
      archive: { passwordHolder, reminder },
      audit: {
        technicianId,
        ticketId: row.ticketId,
        action: 'password-changed',
        what: 'The password of the archive was changed.',
      },
    },
  });
}
