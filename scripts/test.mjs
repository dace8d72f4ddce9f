// @ts-check
import { spawn } from 'node:child_process';
import { run, ensureDebianPackages, ensureNpmPackages, ROOT } from './lib/setup.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';

/** `npm test`: everything, on a real database and in a real browser. `npm test -- unit|integration|e2e|lint` for a part. */
const parts = {
  unit: () => run('npx', ['vitest', 'run', '--project', 'unit']),
  integration: () => run('npx', ['vitest', 'run', '--project', 'integration']),
  e2e: () => run('npx', ['playwright', 'test', '--config', 'e2e/playwright.config.ts']),
};
const names = ['lint', ...Object.keys(parts)];

/** Needs the sources only, and one core: it runs beside the build. @returns what waits for its end. */
function startLint() {
  const output = /** @type {Buffer[]} */ ([]);
  const child = spawn('npm', ['run', '--silent', 'lint'], {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  for (const stream of [child.stdout, child.stderr]) {
    stream.on('data', (/** @type {Buffer} */ piece) => output.push(piece));
  }
  const ended = new Promise((resolve) => child.once('close', resolve));
  return async () => {
    const code = await ended;
    say('\nlint');
    process.stdout.write(Buffer.concat(output));
    if (code !== 0) throw new Sentence('“npm run lint” failed.');
  };
}

/** The build, in a process of its own, so that the lint beside it is heard. */
function startBuild() {
  say('Building');
  const child = spawn('npm', ['run', '--silent', 'build'], { cwd: ROOT, stdio: 'inherit' });
  return new Promise((resolve, reject) => {
    child.once('close', (code) =>
      code === 0 ? resolve(undefined) : reject(new Sentence('“npm run build” failed.')),
    );
  });
}

await runMain(async () => {
  const wanted = process.argv.slice(2);
  const unknown = wanted.find((name) => !names.includes(name));
  if (unknown) throw new Sentence(`Usage: npm test -- [${names.join('|')}]`);
  const isWanted = (/** @type {string} */ name) => wanted.length === 0 || wanted.includes(name);
  ensureDebianPackages(['mariadb-server-core', 'mariadb-client-core', 'chromium', 'age']);
  ensureNpmPackages();
  const linted = isWanted('lint') ? startLint() : null;
  await startBuild();
  await linted?.();
  for (const [name, part] of Object.entries(parts)) {
    if (!isWanted(name)) continue;
    say(`\n${name}`);
    part();
  }
});
