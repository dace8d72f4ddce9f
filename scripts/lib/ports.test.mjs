// @ts-check
import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { expect, test } from 'vitest';
import { freePort, isFree } from './ports.mjs';

const OTHER = `
  import { freePort } from ${JSON.stringify(new URL('ports.mjs', import.meta.url).href)};
  const found = [];
  for (let n = 0; n < 150; n += 1) found.push(await freePort());
  console.log(JSON.stringify(found));
  // Whoever finds a port uses it later.
  await new Promise((resolve) => process.stdin.once('end', resolve).resume());
`;

test('what processes find at the same time is free, and nobody else’s', async () => {
  const all = Array.from({ length: 4 }, () => {
    const running = promisify(execFile)('node', ['--input-type=module', '--eval', OTHER]);
    return {
      running,
      heard: new Promise((resolve) => running.child.stdout?.once('data', resolve)),
    };
  });
  await Promise.all(all.map(({ heard }) => heard));
  for (const { running } of all) running.child.stdin?.end();
  const found = await Promise.all(
    all.map(async ({ running }) => JSON.parse((await running).stdout)),
  );
  const sets = found.map((ports) => new Set(ports));
  const seen = new Set(sets.flatMap((ports) => [...ports]));
  const own = await freePort();
  expect(seen.size).toBe(sets.reduce((sum, { size }) => sum + size, 0));
  expect([seen.has(own), await isFree(own)]).toEqual([false, true]);
});
