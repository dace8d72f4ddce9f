import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { operationKinds } from '@bright-cellar/core';
import { startRadicale } from '@bright-cellar/rack-stand-ins';
import { afterAll, expect, test } from 'vitest';
import { patience } from '../../scripts/lib/processes.mjs';
import { Api } from '../api.js';
import { startTestProduct, type Product } from '../product.js';
import { mountDrive } from './misfortunes.js';
import { FaultWalk } from './walk.js';

/** `npm run faults -- --seed 7 --steps 500` walks elsewhere, and further. */
const SEED = Number(process.env.FAULT_SEED ?? 4680);
const STEPS = Number(process.env.FAULT_STEPS ?? 80);
/** Walks go side by side, each in a shop of its own: they wait more than they work. */
const WALKS = 2;

const clockFolder = mkdtempSync(join(tmpdir(), 'cellar-clocks-'));
afterAll(() => rmSync(clockFolder, { recursive: true, force: true }));

/** A product whose clock a test sets. */
async function startWithClock(name: number) {
  const clockFile = join(clockFolder, String(name));
  writeFileSync(clockFile, '0');
  const product = await startTestProduct({ ownServer: true, clockFile, lightPasswords: true });
  return { product, clockFile };
}

// Only root may mount a drive that fills up, turns read-only or leaves.
test.skipIf(process.getuid?.() !== 0)(
  'whatever goes wrong in the middle of whatever: everything ends or can go on, what is called proven is, and what is erased comes back',
  async () => {
    patience.mostMs = patience.firstMs;
    const seen = new Set<string>();
    const walks = Array.from({ length: WALKS }, (_, n) => walked(SEED + n, STEPS / WALKS, seen));
    const times: Record<string, number> = {};
    for (const outcome of await Promise.allSettled(walks)) {
      if (outcome.status === 'rejected') throw outcome.reason;
      for (const [what, count] of Object.entries(outcome.value))
        times[what] = (times[what] ?? 0) + count;
    }
    process.stderr.write(`${STEPS} steps from ${SEED}: ${JSON.stringify(times)}\n`);
    // A walk in which nothing ever works, or nothing ever fails, shows nothing.
    for (const end of ENDS) expect(lacks(end, Object.keys(times)), end).toBe(false);
    expect(times['brought back']).toBeGreaterThan(0);
  },
  3_600_000,
);

/**
 * @param seen how operations ended in any walk: who is last walks on for what lacks, up to twice as far
 * @returns how often what was asked for, what was answered, and how operations ended
 */
async function walked(
  seed: number,
  steps: number,
  seen: Set<string>,
): Promise<Record<string, number>> {
  const { product, clockFile } = await startWithClock(seed);
  const unmount = mountDrive(join(product.data, 'racks/alder'), product.data);
  const server = await startRadicale();
  const walk = new FaultWalk(product, await Api.signedIn(product), server, seed, clockFile);
  try {
    const db = await mysql.createConnection(product.databaseSetupUrl);
    await db.query("update racks set reserve = if(name = 'Alder', 1000000, reserve)");
    await db.end();
    let times = {};
    while (walk.log.length < steps || (walk.log.length < 2 * steps && !isAllIn(seen))) {
      await walk.step();
      if (walk.log.length < steps) continue;
      times = await endsOf(product);
      for (const what of Object.keys(times)) seen.add(what);
    }
    return { ...times, ...walk.answers, 'brought back': walk.broughtBack };
  } catch (error) {
    process.stderr.write(
      `seed ${seed}, step ${walk.log.length}:\n${walk.log.slice(-12).join('\n')}\n${String(error)}\n`,
    );
    product.keepLogs(`a walk from ${seed}`);
    throw error;
  } finally {
    unmount();
    await product.stop();
    await server.stop();
  }
}

/** What walks must have come to: every kind done, and something that was cut or went wrong. */
const ENDS = [...operationKinds.map((kind) => `${kind} done`), ' interrupted', ' failed'];
const lacks = (end: string, seen: Iterable<string>) =>
  ![...seen].some((what) => what.endsWith(end));
const isAllIn = (seen: ReadonlySet<string>) => !ENDS.some((end) => lacks(end, seen));

/** How operations ended, and how often. */
async function endsOf({ databaseSetupUrl }: Product): Promise<Record<string, number>> {
  const db = await mysql.createConnection(databaseSetupUrl);
  const [rows] = await db.query<mysql.RowDataPacket[]>(
    "select concat(kind, ' ', state) as what, count(*) as times from operations group by 1",
  );
  await db.end();
  return Object.fromEntries(rows.map((row) => [String(row.what), Number(row.times)]));
}
