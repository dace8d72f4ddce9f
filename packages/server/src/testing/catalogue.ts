import type { DeviceId, RackId } from '@bright-cellar/core';
import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { afterAll, inject } from 'vitest';
import { newArchiveId, newBackupId, newCopyId, newDeviceId, newRackId } from './ids.js';
import { connect, migrateDatabase, type Database } from '../database/connect.js';
import {
  archives,
  backups,
  copies,
  customers,
  devices,
  outbox,
  proofs,
  racks,
  technicians,
  tickets,
} from '../database/schema.js';
import { searchText } from '../database/columns.js';
import { inTheNameOf, type Person } from '../kernel/actor.js';
import { openInstallation } from '../kernel/installation.js';
import type { Acting } from '../kernel/unit-of-work.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { keptAddress } from '../racks/index.js';
import { projections } from '../projections.js';

declare module 'vitest' {
  interface ProvidedContext {
    /** Addresses of a database by name: `NAME` stands for it. */
    database: { url: string; setupUrl: string };
  }
}

/** A clock that stands until it is moved. */
export class StandingClock {
  #now = new Date('2026-11-24T09:00:00.000Z');
  now = (): Date => this.#now;
  forward(ms: number): void {
    this.#now = new Date(this.#now.getTime() + ms);
  }
}

/** A database of its own for the tests of one file, with nothing in it; gone when they are over. */
export async function testDatabase() {
  const name = randomBytes(6).toString('hex');
  const addresses = inject('database');
  const url = addresses.url.replace('NAME', name);
  const setupUrl = addresses.setupUrl.replace('NAME', name);
  const database = new URL(url).pathname.slice(1);
  const server = new URL(setupUrl);
  server.pathname = '';
  const setup = await mysql.createConnection(server.href);
  await setup.query(`CREATE DATABASE ${database}`);
  afterAll(async () => {
    await setup.query(`DROP DATABASE ${database}`);
    await setup.end();
  });
  return { url, setupUrl };
}

/** A catalogue of its own for the tests of one file, on a real database; gone when they are over. */
export async function testCatalogue() {
  const own = mkdtempSync(join(tmpdir(), 'cellar-installation-'));
  openInstallation(own);
  afterAll(() => rmSync(own, { recursive: true }));
  const { url, setupUrl } = await testDatabase();
  await migrateDatabase(setupUrl, url);
  const connection = connect(url);
  afterAll(() => connection.close());
  const { db } = connection;
  const clock = new StandingClock();
  const technicianId = randomUUID();
  await db.insert(technicians).values({
    id: technicianId,
    login: 'wren',
    name: 'Wren',
    passwordHash: '',
    createdAt: clock.now(),
  });
  const actor: Person = inTheNameOf(technicianId);
  const woken = { times: 0 };
  const acting: Acting & { actor: Person } = {
    db,
    actor,
    clock,
    projections,
    committed: () => {
      woken.times += 1;
    },
  };
  return { db, clock, acting, actor, woken, setupUrl, ...makers(db, acting) };
}

/** Rows as the product writes them, each with whatever a test wants to be different. */
function makers(db: Database, acting: Acting & { actor: Person }) {
  let count = 0;
  const by = acting.actor.technicianId;
  const next = () => (count += 1);

  async function addTicket(named: { customer?: string; device?: string; serial?: string } = {}) {
    const n = next();
    const now = acting.clock.now();
    const ids = { customer: randomUUID(), device: newDeviceId() };
    const { customer = `Customer ${n}`, device = `Phone ${n}`, serial = `VA7K${n}` } = named;
    await db.insert(customers).values({
      ...{ id: ids.customer, name: customer, phone: '', email: '', createdAt: now },
      search: searchText(customer),
    });
    await db.insert(devices).values({
      ...{ id: ids.device, serial, family: 'vireo', familyName: 'Vireo', kind: 'phone' },
      ...{ model: 'Arc 7', name: device, osName: 'Vireo OS', osVersion: '17', capacity: 1 },
      seenAt: now,
    });
    return addVisit({ ...ids, serial });
  }

  /** Another ticket of a device that was there before; of its customer, or of who has it now. */
  async function addVisit(of: { customer: string; device: DeviceId; serial: string }) {
    const ticket = randomUUID();
    const number = `2611${String(next()).padStart(4, '0')}`;
    const { customer, device, serial } = of;
    await db.insert(tickets).values({
      ...{ id: ticket, number, customerId: customer, deviceId: device },
      ...{ reason: 'repair', notes: '', openedBy: by, openedAt: acting.clock.now() },
    });
    return { customer, device, serial, ticket, number };
  }

  async function addRack(name = `Rack ${next()}`) {
    const id = newRackId();
    await db.insert(racks).values({
      id,
      name,
      address: keptAddress({ kind: 'folder', path: `/nowhere/${id}` }),
      reserve: 0,
    });
    return id;
  }

  /** An archive with one backup, on one rack. */
  async function addArchive(
    ticket: Awaited<ReturnType<typeof addTicket>>,
    rackId: RackId,
    more: { items?: number; bytes?: number; storedBytes?: number; takenAt?: Date } = {},
  ) {
    const now = acting.clock.now();
    const ids = { archive: newArchiveId(), backup: newBackupId(), copy: newCopyId() };
    const { items = 10, bytes = 1000, storedBytes = 500, takenAt = now } = more;
    await unitOfWork(acting, async (unit) => {
      await unit.tx.insert(archives).values({
        ...{ id: ids.archive, ticketId: ticket.ticket, deviceId: ticket.device },
        ...{ passwordHolder: 'customer', reminder: '', createdAt: now },
      });
      await unit.tx.insert(copies).values({
        ...{ id: ids.copy, archiveId: ids.archive, rackId, folder: ids.archive, storedBytes },
        ...{ generation: 1, createdAt: now },
      });
      await unit.tx.insert(backups).values({
        ...{ id: ids.backup, archiveId: ids.archive, ticketId: ticket.ticket, takenBy: by },
        ...{ operationId: randomUUID(), takenAt, osVersion: '17', contentRevision: 'r1' },
        ...{ items, bytes, storedBytes, newItems: items, newBytes: bytes, durationMs: 1 },
        ...{ digest: '', classes: [], failed: [], coverage: [] },
        scope: { mode: 'everything', encrypted: true, everything: true },
      });
      unit.changed('archive', ids.archive);
    });
    return ids;
  }

  /** What a look at an archive's backup found. */
  const addProof = (
    { archive, backup, copy }: Awaited<ReturnType<typeof addArchive>>,
    outcome: 'whole' | 'damaged',
    level: 'full' | 'bytes' = 'full',
  ) =>
    unitOfWork(acting, async (unit) => {
      await unit.tx.insert(proofs).values({
        ...{ id: randomUUID(), backupId: backup, copyId: copy, generation: 1, by, at: unit.now },
        ...{ operationId: randomUUID(), level, outcome, items: 10, bytes: 1, storedBytes: 1 },
        what: '',
      });
      unit.changed('archive', archive);
    });

  /** What is told of, in its order. */
  const told = async () =>
    (await db.select().from(outbox).orderBy(outbox.id)).map(
      ({ subject, ref }) => `${subject} ${ref}`,
    );

  return { addTicket, addVisit, addRack, addArchive, addProof, told };
}
