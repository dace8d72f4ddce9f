import { execFileSync } from 'node:child_process';
import { renameSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, Rack } from '@bright-cellar/contract';
import { describe, expect, test } from 'vitest';
import { resultOf } from './api.js';
import { openShop } from './open-shop.js';
import { openOwned, OWNED, PASSWORD } from './product.js';

const { product, api } = await openShop();
await openOwned(product);
const made = await api.provenBackup(OWNED);

const archive = async () => (await api.get<Archive>(`/api/archives/${made.archiveId}`)).body;

describe('another copy', () => {
  const copy = async (rackId: string | undefined) => {
    const started = await api.post(`/api/archives/${made.archiveId}/copies`, { rackId });
    return started.status === 200 ? api.ended(started.body.id) : started.body;
  };
  const copies = async () =>
    (await archive()).copies.map(({ rackName, isNewest, state, checkedLevel }) => ({
      ...{ rackName, isNewest, state, checkedLevel },
    }));

  test('goes onto another rack, is read back from there, and is brought up to date by what is new', async () => {
    const [alder, birch] = (await api.get<Rack[]>('/api/racks')).body;
    const done = await copy(birch?.id);
    expect(done).toMatchObject({ state: 'done', deviceId: null, backupId: null });
    const first = resultOf(done, 'copy');
    expect(first.sentBytes).toBe(first.storedBytes);
    expect((await copies()).find(({ rackName }) => rackName === birch?.name)).toEqual({
      ...{ rackName: birch?.name, isNewest: true, state: 'whole', checkedLevel: 'bytes' },
    });
    const { copies: places } = await archive();
    const folder = join(
      birch?.mounted ?? '',
      places.find((p) => p.rackId === birch?.id)?.folder ?? '',
    );
    execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: folder });
    for (const rack of [alder, birch]) {
      expect(await copy(rack?.id)).toMatchObject({ code: 'already-exists' });
    }
    await product.press(OWNED, { do: 'write-note', text: 'a note after the copy' });
    const ticket = await api.openTicket(OWNED);
    const further = await api.startBackup(ticket, { archiveId: made.archiveId });
    expect(await api.ended(further.body.id)).toMatchObject({ state: 'done' });
    expect((await copies()).map(({ isNewest }) => isNewest).sort()).toEqual([false, true]);
    const stale = (await archive()).copies.find(({ isNewest }) => !isNewest);
    const second = resultOf(await copy(stale?.rackId), 'copy');
    expect(second.sentBytes).toBeLessThan(first.sentBytes / 2);
    expect((await copies()).map(({ isNewest }) => isNewest)).toEqual([true, true]);
    execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: folder });
  });

  test('is what is left when the first drive is away', async () => {
    const [alder] = (await api.get<Rack[]>('/api/racks')).body;
    const path = alder?.mounted ?? '';
    renameSync(path, `${path}.away`);
    try {
      const proof = await api.post(`/api/backups/${made.backupId}/proofs`, {
        ...{ level: 'full', password: PASSWORD },
      });
      expect(await api.ended(proof.body.id)).toMatchObject({ state: 'done' });
      expect((await archive()).copies.map(({ present }) => present).sort()).toEqual([false, true]);
    } finally {
      renameSync(`${path}.away`, path);
    }
  });
});
