import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { expect, test } from 'vitest';
import { patience } from '../scripts/lib/processes.mjs';
import { Api } from './api.js';
import { FaultWalk, mountRack } from './faults.js';
import { startTestProduct } from './product.js';

/** `FAULT_SEED=7 npm run faults -- --steps 500` walks elsewhere, and further. */
const SEED = Number(process.env.FAULT_SEED ?? 4680);
const STEPS = Number(process.env.FAULT_STEPS ?? 40);

// Only root may mount a drive that fills up, turns read-only or leaves.
test.skipIf(process.getuid?.() !== 0)(
  'whatever goes wrong in the middle of whatever: everything ends or can go on, and what is called proven is',
  async () => {
    patience.mostMs = patience.firstMs;
    const product = await startTestProduct({ ownServer: true });
    const unmount = mountRack(join(product.data, 'racks/alder'), join(product.data, 'aside'));
    const db = await mysql.createConnection(product.databaseSetupUrl);
    await db.query("update racks set reserve = if(name = 'Alder', 1000000, reserve)");
    await db.end();
    const walk = new FaultWalk(product, await Api.signedIn(product), SEED);
    try {
      for (let step = 0; step < STEPS; step++) await walk.step();
      const seen = await mysql.createConnection(product.databaseSetupUrl);
      const [rows] = await seen.query<mysql.RowDataPacket[]>(
        "select concat(kind, ' ', state) as what, count(*) as times from operations group by 1",
      );
      await seen.end();
      const times = Object.fromEntries(rows.map((row) => [String(row.what), Number(row.times)]));
      process.stderr.write(
        `${STEPS} steps from ${SEED}: ${JSON.stringify({ ...times, ...walk.answers })}\n`,
      );
      // A walk in which nothing ever works, or nothing ever fails, shows nothing.
      for (const what of ['backup done', 'prove done'])
        expect(times[what], what).toBeGreaterThan(0);
      expect(Object.keys(times).join()).toMatch(/interrupted|failed/);
      const taken = Object.keys(walk.answers).filter((answer) => answer.endsWith('taken'));
      expect(taken.length, taken.join()).toBeGreaterThan(3);
    } catch (error) {
      process.stderr.write(
        `seed ${SEED}, step ${walk.log.length}:\n${walk.log.slice(-12).join('\n')}\n`,
      );
      throw error;
    } finally {
      unmount();
      await product.stop();
    }
    expect(walk.log.length).toBeGreaterThanOrEqual(STEPS);
  },
  3_600_000,
);
