// @ts-check
import { parseArgs } from 'node:util';
import { runMain, Sentence } from './lib/say.mjs';
import { ensurePackages, build, run } from './lib/setup.mjs';

/**
 * `npm run faults -- --steps N --seed N`: power cuts after every step of the engine in every way, packing, moves and crossings that are cut
 * fifty times, then a random walk over all that a shop does, with all that can go wrong. As root.
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
  await ensurePackages([
    'mariadb-server-core',
    'mariadb-client-core',
    'chromium-headless-shell',
    'age',
  ]);
  build();
  const vitest = (/** @type {string} */ project, /** @type {string[]} */ ...files) => [
    ...['vitest', 'run', '--project', project],
    ...files,
  ];
  run('npx', vitest('engine', 'packages/archive/src/disk/power-cut.test.ts'), {
    POWER_CUTS: 'all',
  });
  run('npx', vitest('integration', 'e2e/engine.int', 'e2e/moves.int', 'e2e/crossing.int'), {
    ...{ ENGINE_KILLS: '50', MOVE_KILLS: '50', CROSSING_CUTS: '50' },
  });
  run('npx', vitest('integration', 'e2e/faults/'), {
    ...{ FAULT_STEPS: values.steps, FAULT_SEED: values.seed },
  });
});
