// @ts-check
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, afterEach, beforeEach, expect, test } from 'vitest';
import { Keeper, patience } from './processes.mjs';

const SILENT_MS = 1500;
const usual = { ...patience };
const folder = mkdtempSync(join(tmpdir(), 'cellar-kept-'));
/** @type {Keeper | undefined} */
let keeper;
beforeEach(() => Object.assign(patience, { firstMs: 10, silentMs: SILENT_MS }));
afterEach(async () => {
  await keeper?.stop();
  Object.assign(patience, usual);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A process that says that it is ready, and as often as told that it is alive. @param {string} alive */
async function kept(alive) {
  const script = join(folder, 'kept.mjs');
  writeFileSync(
    script,
    `process.send({ ready: true }); ${alive}; setInterval(() => undefined, 1000);`,
  );
  keeper = new Keeper({ name: 'tried', script, env: {}, log: `${script}.log` });
  await keeper.start();
  return { pid: keeper.pid, keeper };
}

/** While this process stands still it hears nobody. @param {number} ms */
const standStill = (ms) => Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, ms);

test('a process that falls silent is ended, and started again', async () => {
  const { pid, keeper: of } = await kept('');
  await expect.poll(() => of.pid).not.toBe(pid);
});

test('one that speaks is left alone, also by who stood still for long and heard nothing meanwhile', async () => {
  const { pid, keeper: of } = await kept(`setInterval(() => process.send({ alive: true }), 100)`);
  standStill(1.2 * SILENT_MS);
  await sleep(SILENT_MS / 4);
  expect(of.pid).toBe(pid);
});
