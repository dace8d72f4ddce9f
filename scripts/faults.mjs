// @ts-check
import { parseArgs } from 'node:util';
import { runMain, Sentence } from './lib/say.mjs';
import { ensureDebianPackages, ensureNpmPackages, build, run } from './lib/setup.mjs';

/**
 * `npm run faults -- --steps N --seed N`: power cuts after every step of the engine in every way, then a random walk over all
 * that a shop does, with all that can go wrong. As root.
 */
await runMain(async () => {
  let values;
  try {
    ({ values } = parseArgs({
      options: {
        steps: { type: 'string', default: '200' },
        seed: { type: 'string', default: process.env.FAULT_SEED ?? String(Date.now() % 100_000) },
      },
    }));
  } catch {
    throw new Sentence('Usage: npm run faults -- [--steps N] [--seed N]');
  }
  if (process.getuid?.() !== 0) {
    throw new Sentence('The walk mounts and unmounts a drive: run it as root.');
  }
  ensureDebianPackages([
    'mariadb-server-core',
    'mariadb-client-core',
    'chromium-headless-shell',
    'age',
  ]);
  ensureNpmPackages();
  build();
  run(
    'npx',
    ['vitest', 'run', '--project', 'unit', 'packages/archive/src/disk/power-cut.test.ts'],
    {
      POWER_CUTS: 'all',
    },
  );
  run(
    'npx',
    ['vitest', 'run', '--project', 'integration', 'e2e/faults/faults.integration.test.ts'],
    {
      FAULT_STEPS: values.steps,
      FAULT_SEED: values.seed,
    },
  );
});
