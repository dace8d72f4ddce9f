import { randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Operation } from '@bright-cellar/contract';
import { expect, test } from 'vitest';
import { Api } from './api.js';
import { startTestProduct } from './product.js';

/**
 * `npm run bench:berths`: four berths at once beside one berth with as much on it, in turns, through the whole
 * product and over cables that are as quick as they go. `BERTHS_MB` is what each of the four holds.
 */
const MEGABYTES = Number(process.env.BERTHS_MB ?? 1000);
const ROUNDS = Number(process.env.BERTHS_ROUNDS ?? 3);
const BERTHS = 4;

function fill(folder: string, megabytes: number): void {
  mkdirSync(join(folder, 'photographs'), { recursive: true });
  for (let i = 0; i < megabytes / 2; i++) {
    writeFileSync(join(folder, 'photographs', `${i}.jpg`), randomBytes(2_000_000));
  }
}

test('four berths beside one', async () => {
  const product = await startTestProduct({ only: [] });
  const api = await Api.signedIn(product);
  const source = mkdtempSync(join(tmpdir(), 'cellar-berths-'));
  /** Bytes a second from the first start to the last end. */
  async function rate(sizes: number[]): Promise<number> {
    const devices = await Promise.all(
      sizes.map(async (megabytes, i) => {
        const folder = join(source, `${Date.now()}-${i}`);
        fill(folder, megabytes);
        const { facts } = await product.plugFolder(folder, i + 1);
        return { id: facts.id, ticket: await api.openTicket(facts.id), folder };
      }),
    );
    const began = performance.now();
    const started = await Promise.all(devices.map(({ ticket }) => api.startBackup(ticket)));
    const ended: Operation[] = await Promise.all(
      started.map(({ body }) => api.ended(body.id, 600_000)),
    );
    const seconds = (performance.now() - began) / 1000;
    for (const { state } of ended) expect(state).toBe('done');
    for (const { id, folder } of devices) {
      await product.press(id, { do: 'pull-cable' });
      rmSync(folder, { recursive: true, force: true });
    }
    // Room for the next turn: nothing here is looked at again.
    const rack = join(product.data, 'racks/alder');
    for (const name of readdirSync(rack)) rmSync(join(rack, name), { recursive: true });
    return ended.reduce((sum, o) => sum + (o.result?.bytes ?? 0), 0) / seconds;
  }
  try {
    const ratios: number[] = [];
    for (let round = 0; round < ROUNDS; round++) {
      const one = await rate([MEGABYTES * BERTHS]);
      const four = await rate(Array.from({ length: BERTHS }, () => MEGABYTES));
      ratios.push(four / one);
      process.stdout.write(
        `one berth ${(one / 1e6).toFixed(0)} MB/s, four ${(four / 1e6).toFixed(0)} MB/s: ${(four / one).toFixed(2)}\n`,
      );
    }
    process.stdout.write(
      `median ratio ${ratios.sort((a, b) => a - b)[Math.floor(ROUNDS / 2)]?.toFixed(2)}\n`,
    );
  } finally {
    await product.stop();
    rmSync(source, { recursive: true, force: true });
  }
});
