import { randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import type { Operation, Rack } from '@bright-cellar/contract';
import { resultOf, Api } from './api.js';
import { PASSWORD, startTestProduct } from './product.js';

/**
 * `npm run bench:migrate`: old to new in one run, beside the slower of its two halves alone: a backup with its proof; a restore of
 * it, with the comparison. Through the whole product, over cables of `MIGRATE_RATE` MB/s, with `MIGRATE_MB` on the old device.
 */
const MEGABYTES = Number(process.env.MIGRATE_MB ?? 600);
const RATE = Number(process.env.MIGRATE_RATE ?? 30) * 1e6;
const ROUNDS = Number(process.env.MIGRATE_ROUNDS ?? 3);

function fill(folder: string): void {
  mkdirSync(join(folder, 'photographs'), { recursive: true });
  for (let i = 0; i < MEGABYTES / 2; i++) {
    writeFileSync(join(folder, 'photographs', `${i}.jpg`), randomBytes(2_000_000));
  }
}

test('old to new beside its halves', async () => {
  const product = await startTestProduct({ only: [], rate: RATE });
  const api = await Api.signedIn(product);
  const home = mkdtempSync(join(tmpdir(), 'cellar-migrate-'));
  const source = join(home, 'source');
  const { body: racks } = await api.get<Rack[]>('/api/racks');

  /** An empty device on the second berth. */
  async function empty(name: string) {
    const folder = join(home, name);
    mkdirSync(folder);
    return (await product.plugFolder(folder, 2)).facts;
  }
  async function done(started: Operation): Promise<Operation> {
    const ended = await api.ended(started.id, 1_800_000);
    expect(ended.state, JSON.stringify(ended.problem ?? started)).toBe('done');
    return ended;
  }
  async function seconds(work: () => Promise<unknown>): Promise<number> {
    const began = performance.now();
    await work();
    return (performance.now() - began) / 1000;
  }

  try {
    const ratios: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      // New contents for each: nothing is in an archive before.
      const old = await (async () => {
        fill(source);
        return (await product.plugFolder(source, 1)).facts;
      })();
      const ticket = await api.openTicket(old.id);
      let backup: Operation | null = null;
      const first = await seconds(async () => {
        backup = await done((await api.startBackup(ticket)).body);
        const proof = { level: 'full', password: PASSWORD };
        await done((await api.post(`/api/backups/${backup.backupId}/proofs`, proof)).body);
      });
      const one = await empty(`one-${round}`);
      const second = await seconds(async () => {
        const body = {
          ...{ deviceId: one.id, serialTail: one.serial.slice(-4) },
          ...{ fromDesk: false, password: PASSWORD },
        };
        await done((await api.post(`/api/backups/${backup?.backupId}/restores`, body)).body);
      });
      await product.press(one.id, { do: 'pull-cable' });
      const other = await empty(`other-${round}`);
      const both = await seconds(async () => {
        const body = {
          ...{ mode: 'everything', choice: {}, encrypted: true, accepted: [], fromDesk: false },
          ...{ rackId: racks[0]?.id, archiveId: null, password: PASSWORD },
          ...{ passwordHolder: 'customer', reminder: '' },
          onto: { deviceId: other.id, serialTail: other.serial.slice(-4) },
        };
        const ended = await done((await api.post(`/api/tickets/${ticket}/migrations`, body)).body);
        expect(resultOf(ended, 'restore').compared).toMatchObject({ different: 0, missing: 0 });
      });
      ratios.push(both / Math.max(first, second));
      process.stdout.write(
        `backup and proof ${first.toFixed(1)} s, restore ${second.toFixed(1)} s, old to new ${both.toFixed(1)} s: ${ratios.at(-1)?.toFixed(2)} of the slower half\n`,
      );
      for (const { id } of [old, other]) await product.press(id, { do: 'pull-cable' });
      rmSync(source, { recursive: true });
    }
    ratios.sort((a, b) => a - b);
    process.stdout.write(
      `old to new / the slower half alone: median ${ratios[Math.floor(ROUNDS / 2)]?.toFixed(2)}\n`,
    );
  } finally {
    await product.stop();
    rmSync(home, { recursive: true, force: true });
  }
});
