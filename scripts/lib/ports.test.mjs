// @ts-check
import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { expect, test } from 'vitest';
import { freePort, isFree } from './ports.mjs';

const OTHER = `
  import { freePort } from ${JSON.stringify(new URL('ports.mjs', import.meta.url).href)};
  const found = await Promise.all(Array.from({ length: 40 }, freePort));
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
  // While they run: the block of one that has ended is anybody’s.
  const own = await freePort();
  for (const { running } of all) running.child.stdin?.end();
  const found = await Promise.all(
    all.map(async ({ running }) => JSON.parse((await running).stdout)),
  );
  const seen = new Set(found.flat());
  expect(seen.size).toBe(4 * 40);
  expect([seen.has(own), await isFree(own)]).toEqual([false, true]);
});
