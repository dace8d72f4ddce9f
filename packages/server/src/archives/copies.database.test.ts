import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { markRack, openStore, type StoreAddress } from '@bright-cellar/archive';
import { problemOf, type CopyState } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { afterAll, beforeEach, expect, test } from 'vitest';
import { copies, racks } from '../database/schema.js';
import { keptAddress } from '../racks/index.js';
import { testCatalogue } from '../testing/catalogue.js';
import { newCopyId } from '../testing/ids.js';
import { copyToChange, presentCopies, presentCopy } from './archives.js';

/** Which of an archive's copies is read, and into which a change goes. */

const { db, clock, addTicket, addRack, addArchive } = await testCatalogue();
const folder = await mkdtemp(join(tmpdir(), 'cellar-copies-'));
afterAll(() => rm(folder, { recursive: true }));

let archive: Awaited<ReturnType<typeof addArchive>>;
const paths = new Map<string, string>();
let racksMade = 0;

/** A rack that is here, and what lies there of the archive. */
async function realRack(name: string): Promise<Awaited<ReturnType<typeof addRack>>> {
  const id = await addRack(`${name} ${(racksMade += 1)}`);
  const path = join(folder, id);
  await mkdir(path);
  const address: StoreAddress = { kind: 'folder', path };
  await markRack(openStore(address), id);
  await db
    .update(racks)
    .set({ address: keptAddress(address) })
    .where(eq(racks.id, id));
  paths.set(name, path);
  return id;
}

async function addCopy(name: string, generation: number, state: CopyState = 'whole') {
  const rackId = await realRack(name);
  await db.insert(copies).values({
    ...{ id: newCopyId(), archiveId: archive.archive, rackId, folder: archive.archive },
    ...{ storedBytes: 1, generation, state, createdAt: clock.now() },
  });
  await mkdir(join(paths.get(name) ?? '', archive.archive));
}
const goesAway = async (name: string) => {
  const path = paths.get(name) ?? '';
  await rename(path, `${path}.away`);
};

beforeEach(async () => {
  paths.clear();
  archive = await addArchive(await addTicket(), await realRack('first'));
  // Only those that a test adds.
  await db.delete(copies).where(eq(copies.archiveId, archive.archive));
});

const nameOf = (copy: { rackName: string }) => copy.rackName.split(' ')[0];
const present = async () => (await presentCopies(db, archive.archive)).map(nameOf);

test('the newest state is read, and one that is known to be damaged last', async () => {
  await addCopy('old', 1);
  await addCopy('damaged', 3, 'damaged');
  await addCopy('new', 3);
  expect(await present()).toEqual(['new', 'old', 'damaged']);
  await goesAway('new');
  expect(nameOf(await presentCopy(db, archive.archive))).toBe('old');
});

test('a change goes into a copy of the newest state, or nowhere', async () => {
  await addCopy('old', 1);
  await addCopy('new', 2);
  await addCopy('twin', 2);
  expect(nameOf(await copyToChange(db, archive.archive))).not.toBe('old');
  await goesAway('new');
  expect(nameOf(await copyToChange(db, archive.archive))).toBe('twin');
  await goesAway('twin');
  const refused = problemOf(await copyToChange(db, archive.archive).catch((e: unknown) => e));
  expect(refused.code).toBe('archive-not-here');
  expect(refused.next).toMatch(/^Connect (new|twin) \d+ or (new|twin) \d+, where it lies\.$/);
  // It can still be read.
  expect(nameOf(await presentCopy(db, archive.archive))).toBe('old');
});
