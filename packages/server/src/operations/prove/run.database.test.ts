import { randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  ArchiveFiles,
  markRack,
  openStore,
  packFolder,
  type StoreAddress,
} from '@bright-cellar/archive';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, expect, test } from 'vitest';
import { backups, copies, proofs, racks } from '../../database/schema.js';
import type { Job } from '../../engine/job.js';
import { Progress } from '../../engine/progress.js';
import { HeldPassword } from '../../kernel/held-password.js';
import { unitOfWork } from '../../kernel/unit-of-work.js';
import { keptAddress } from '../../racks/index.js';
import { testCatalogue } from '../../testing/catalogue.js';
import { proveRun } from './run.js';

/** A proof of a real archive, and what the catalogue says of the copy after it. */

const PASSWORD = 'brass kettle seven moths';
const { db, acting, clock, actor, addTicket, addRack, addArchive } = await testCatalogue();
const folder = await mkdtemp(join(tmpdir(), 'cellar-prove-'));
afterAll(() => rm(folder, { recursive: true }));

let ids: Awaited<ReturnType<typeof addArchive>>;
let files: ArchiveFiles;

const copyNow = async () => (await db.select().from(copies).where(eq(copies.id, ids.copy)))[0];
const proofsNow = () => db.select().from(proofs).where(eq(proofs.copyId, ids.copy));

async function pack(backup: string = randomUUID()) {
  const source = join(folder, `source-${ids.archive}`);
  await mkdir(source, { recursive: true });
  await writeFile(join(source, `${backup}.txt`), backup);
  return packFolder({
    ...{ source, files, secret: { kind: 'password', password: PASSWORD }, label: '', threads: 0 },
    ...{ archive: ids.archive, backup },
  });
}

beforeEach(async () => {
  const rackId = await addRack();
  const rack = join(folder, rackId);
  await mkdir(rack);
  const address: StoreAddress = { kind: 'folder', path: rack };
  const store = openStore(address);
  await markRack(store, rackId);
  await db
    .update(racks)
    .set({ address: keptAddress(address) })
    .where(eq(racks.id, rackId));
  ids = await addArchive(await addTicket(), rackId);
  files = new ArchiveFiles(store, ids.archive);
  const { items, bytes, listDigest, manifestDigest, generation, payloadBytes } = await pack(
    ids.backup,
  );
  await db.update(backups).set({ items, bytes, listDigest }).where(eq(backups.id, ids.backup));
  await db
    .update(copies)
    .set({ digest: manifestDigest, generation, storedBytes: payloadBytes })
    .where(eq(copies.id, ids.copy));
});

/** @param meanwhile what happens before what was found is recorded */
async function prove(
  level: 'structure' | 'bytes' | 'full',
  password: string,
  meanwhile: () => Promise<unknown> = async () => undefined,
) {
  const job: Partial<Job<'prove'>> = {
    ...{ operationId: randomUUID(), acting, db, startedBy: actor.technicianId },
    ...{ archiveId: ids.archive, backupId: ids.backup, threads: 0 },
    input: { copyId: ids.copy, level, expected: { items: 1, bytes: 1 } },
    password: new HeldPassword(password),
    progress: new Progress('opening', async () => undefined),
    signal: new AbortController().signal,
  };
  const ending = await proveRun.run(job as Job<'prove'>);
  await meanwhile();
  await unitOfWork(acting, async (unit) => ending.record?.(unit));
}

const flip = async () => {
  const [pack] = await files.list('data/packs/');
  await files.put(pack?.name ?? '', 'damaged', 'over');
};

test('a copy is whole as far as somebody looked, with the moment', async () => {
  expect(await copyNow()).toMatchObject({ state: 'unknown', checkedAt: null });
  await prove('structure', PASSWORD);
  const found = { state: 'whole', checkedAt: clock.now() };
  expect(await copyNow()).toMatchObject({ ...found, checkedLevel: 'structure' });
  clock.forward(60_000);
  await prove('bytes', '');
  expect(await copyNow()).toMatchObject({ checkedAt: clock.now(), checkedLevel: 'bytes' });
});

test.each([
  ['with its password', 'full', PASSWORD],
  ['without it', 'bytes', ''],
] as const)(
  'damage that is found %s is known of the copy, and stays until somebody looks as closely',
  async (_, level, password) => {
    const [whole] = await files.list('data/packs/');
    const kept = await files.read(whole?.name ?? '', 10_000_000);
    await flip();
    await expect(prove(level, password)).rejects.toMatchObject({
      problem: { code: 'archive-damaged' },
    });
    expect(await copyNow()).toMatchObject({ state: 'damaged', checkedLevel: level });
    expect(await proofsNow()).toMatchObject([{ outcome: 'damaged', level }]);
    await files.put(whole?.name ?? '', kept, 'over');
    await prove('structure', PASSWORD);
    expect(await copyNow()).toMatchObject({ state: 'damaged', checkedLevel: level });
    await prove(level, password);
    expect(await copyNow()).toMatchObject({ state: 'whole', checkedLevel: level });
  },
);

test('what was added beside a look is not judged by it, and the copy is as unknown as it became', async () => {
  await prove('full', PASSWORD, async () => {
    const { generation, manifestDigest: digest } = await pack();
    await db.update(copies).set({ generation, digest }).where(eq(copies.id, ids.copy));
  });
  expect(await proofsNow()).toMatchObject([{ backupId: ids.backup, outcome: 'whole' }]);
  expect(await copyNow()).toMatchObject({ generation: 2, state: 'unknown', checkedAt: null });
});
