// @ts-check
import { runMain } from './lib/say.mjs';
import { build, ensurePackages, run } from './lib/setup.mjs';

/**
 * `npm run bench:archive -- --size 2G [--rounds N] [--folder DIR] [--growth]` and `npm run bench:copy -- …`: the engine beside
 * ordinary tools.
 */
const [bench = 'main', ...more] = process.argv.slice(2);
await runMain(async () => {
  await ensurePackages(['age', 'zstd', 'openssh-server', 'openssh-client']);
  build();
  run('node', [`packages/cli/dist/bench/${bench}.js`, ...more]);
});
