// @ts-check
import { run, build, ensureDebianPackages, ensureNpmPackages } from './lib/setup.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';

/** `npm test`: everything, on a real database and in a real browser. `npm test -- unit|integration|e2e|lint` for a part. */
const parts = {
  lint: () => run('npm', ['run', '--silent', 'lint']),
  unit: () => run('npx', ['vitest', 'run', '--project', 'unit']),
  integration: () => run('npx', ['vitest', 'run', '--project', 'integration']),
  e2e: () => run('npx', ['playwright', 'test', '--config', 'e2e/playwright.config.ts']),
};

await runMain(async () => {
  const wanted = process.argv.slice(2);
  const unknown = wanted.find((name) => !(name in parts));
  if (unknown) throw new Sentence(`Usage: npm test -- [${Object.keys(parts).join('|')}]`);
  ensureDebianPackages(['mariadb-server-core', 'mariadb-client-core', 'chromium', 'age']);
  ensureNpmPackages();
  build();
  for (const [name, part] of Object.entries(parts)) {
    if (wanted.length > 0 && !wanted.includes(name)) continue;
    say(`\n${name}`);
    part();
  }
});
