import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { operationKinds } from '@bright-cellar/core';
import { startBox, startRadicale } from '@bright-cellar/rack-stand-ins';
import { afterAll, expect, test } from 'vitest';
import { patience } from '../../scripts/lib/processes.mjs';
import { Api } from '../api.js';
import { startTestProduct, type Product } from '../product.js';
import { mountDrive } from './misfortunes.js';
import { FaultWalk, type Direction } from './walk.js';

/** `npm run faults -- --seed 7 --steps 500` walks elsewhere, and further. */
const SEED = Number(process.env.FAULT_SEED ?? 4680);
const STEPS = Number(process.env.FAULT_STEPS ?? 24);
/** Walks go side by side, each in a shop of its own: they wait more than they work. */
const WALKS = 2;
/** How often what no walk met is gone for. */
const TRIES = 3;

const clockFolder = mkdtempSync(join(tmpdir(), 'cellar-clocks-'));
afterAll(() => rmSync(clockFolder, { recursive: true, force: true }));

/** A product whose clock a test sets. */
async function startWithClock(name: number) {
  const clockFile = join(clockFolder, String(name));
  writeFileSync(clockFile, '0');
  const product = await startTestProduct({ ownServer: true, clockFile });
  return { product, clockFile };
}

// Only root may mount a drive that fills up, turns read-only or leaves.
test.skipIf(process.getuid?.() !== 0)(
  'whatever goes wrong in the middle of whatever: everything ends or can go on, what is called proven is, and what is erased comes back',
  async () => {
    patience.mostMs = patience.firstMs;
    const met = { seen: new Set<string>(), walking: WALKS };
    const walks = Array.from({ length: WALKS }, (_, n) => walked(SEED + n, STEPS / WALKS, met));
    const times: Record<string, number> = {};
    for (const outcome of await Promise.allSettled(walks)) {
      if (outcome.status === 'rejected') throw outcome.reason;
      for (const [what, count] of Object.entries(outcome.value))
        times[what] = (times[what] ?? 0) + count;
    }
    process.stderr.write(`${STEPS} steps from ${SEED}: ${JSON.stringify(times)}\n`);
    expect(lacking(Object.keys(times))).toEqual([]);
  },
  3_600_000,
);

/**
 * @param met how operations ended in any walk, and how many still walk: who is last goes for what nobody met
 * @returns how often what was asked for, what was answered, and how operations ended
 */
async function walked(
  seed: number,
  steps: number,
  met: { seen: Set<string>; walking: number },
): Promise<Record<string, number>> {
  const { product, clockFile } = await startWithClock(seed);
  const unmount = mountDrive(join(product.data, 'racks/alder'), product.data);
  const server = await startRadicale();
  const box = await startBox();
  const place = { product, api: await Api.signedIn(product), box, seed };
  const walk = new FaultWalk(place, server, clockFile);
  const cameTo = async () => {
    const times = await endsOf(product);
    if (walk.broughtBack > 0) times[' brought back'] = walk.broughtBack;
    for (const what of Object.keys(times)) met.seen.add(what);
    return times;
  };
  try {
    const db = await mysql.createConnection(product.databaseSetupUrl);
    await db.query("update racks set reserve = if(name = 'Alder', 1000000, reserve)");
    await db.end();
    await walk.begin();
    while (walk.log.length < steps) await walk.step();
    await cameTo();
    met.walking -= 1;
    for (let again = 0; met.walking === 0 && again < TRIES; again += 1) {
      for (const end of lacking(met.seen)) await walk.step(towards(end));
      await cameTo();
    }
    return { ...(await cameTo()), ...walk.answers };
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
    box.stop();
  }
}

/** What walks must have come to: one in which nothing ever works, or nothing ever fails, shows nothing. */
const ENDS = [
  ...operationKinds.map((kind) => `${kind} done`),
  ...[' interrupted', ' failed', ' brought back'],
];
const lacking = (seen: Iterable<string>) => {
  const all = [...seen];
  return ENDS.filter((end) => !all.some((what) => what.endsWith(end)));
};

/** The step that comes to an end most surely. */
function towards(end: string): Direction {
  if (end === ' interrupted') return { action: 'further', misfortune: 'killWork' };
  if (end === ' failed') return { action: 'erase', misfortune: 'cable' };
  if (end === ' brought back') return { action: 'erase', misfortune: 'none' };
  return { action: end.replace(/ done$/, ''), misfortune: 'none' };
}

/** How operations ended, and how often. */
async function endsOf({ databaseSetupUrl }: Product): Promise<Record<string, number>> {
  const db = await mysql.createConnection(databaseSetupUrl);
  const [rows] = await db.query<mysql.RowDataPacket[]>(
    "select concat(kind, ' ', state) as what, count(*) as times from operations group by 1",
  );
  await db.end();
  return Object.fromEntries(rows.map((row) => [String(row.what), Number(row.times)]));
}
