// @ts-check
import { runMain } from './lib/say.mjs';
import { build, ensureDebianPackages, ensureNpmPackages, run } from './lib/setup.mjs';

/** `npm run bench:archive -- --size 2G [--rounds N] [--folder DIR] [--growth]`: the engine beside ordinary tools. */
await runMain(async () => {
  ensureDebianPackages(['age', 'zstd']);
  ensureNpmPackages();
  build();
  run('node', ['packages/cli/dist/bench/main.js', ...process.argv.slice(2)]);
});
