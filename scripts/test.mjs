// @ts-check
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { freemem } from 'node:os';
import { ensurePackages, ROOT, runBeside } from './lib/setup.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';

/** `npm test`: everything, on a real database and in a real browser. `npm test -- unit|integration|e2e|lint` for a part. */
const parts = {
  // Some wait for a line that broke: a third beside them uses what two leave idle.
  unit: () =>
    runBeside('npx', [
      ...['vitest', 'run', '--maxWorkers', '3'],
      ...['--project', 'unit'],
      ...['--project', 'engine'],
      ...['--project', 'screens'],
    ]),
  // The walks wait more than they work: two beside them use what two leave idle.
  integration: () =>
    runBeside('npx', [
      ...['vitest', 'run', '--maxWorkers', '4'],
      ...['--project', 'database', '--project', 'integration'],
    ]),
  e2e: () => runBeside('npx', ['playwright', 'test', '--config', 'e2e/playwright.config.ts']),
};
const names = ['lint', ...Object.keys(parts)];

/**
 * Needs the sources only: it runs beside all else, on what that leaves idle.
 * @returns what tells how it ended, once: it waits for that, or looks only whether it is over. It throws where it failed.
 */
function startLint() {
  const output = /** @type {Buffer[]} */ ([]);
  // Being nice would still take a share from whoever has all cores busy.
  const child = spawn('chrt', ['--idle', '0', 'npm', 'run', '--silent', 'lint'], {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'pipe'],
    // What looks at types does so on one core: nobody waits for it, and it takes a third less.
    env: { ...process.env, GOMAXPROCS: '1' },
  });
  for (const stream of [child.stdout, child.stderr]) {
    stream.on('data', (/** @type {Buffer} */ piece) => output.push(piece));
  }
  const ended = new Promise((resolve) => child.once('close', resolve));
  let told = false;
  return async ({ waits = true } = {}) => {
    if (told || (!waits && child.exitCode === null)) return;
    const code = await ended;
    told = true;
    say('\nlint');
    process.stdout.write(Buffer.concat(output));
    if (code !== 0) throw new Sentence('“npm run lint” failed.');
  };
}

function startBuild() {
  say('Building');
  return runBeside('npm', ['run', '--silent', 'build']);
}

/** @returns core-seconds of everything that was started here and has ended (proc(5), fields cutime and cstime of stat). */
function coreSeconds() {
  const fields = readFileSync('/proc/self/stat', 'utf8').split(') ').at(-1)?.split(' ') ?? [];
  const ticksPerSecond = 100;
  return (Number(fields[13]) + Number(fields[14])) / ticksPerSecond;
}

/**
 * Says how long a part took, on the clock and of the cores; what runs beside it and has not ended is not in it.
 * @param {string} name
 * @param {() => Promise<void>} part
 */
async function timed(name, part) {
  const [from, coresFrom] = [performance.now(), coreSeconds()];
  await part();
  const seconds = Math.round((performance.now() - from) / 1000);
  say(`${name}: ${seconds} s, ${Math.round(coreSeconds() - coresFrom)} core-seconds`);
}

const ROOM_FOR_TYPES = 12e9;

/** What looks at types, in the build and in the linter, tidies up its memory only once it is full: a sixth of what it takes. */
function tidyTypesLate() {
  if (freemem() < ROOM_FOR_TYPES) return;
  process.env['GOGC'] = 'off';
  process.env['GOMEMLIMIT'] = '3GiB';
}

const ROOM_FOR_TESTS = 6e9;

/**
 * Tests write thousands of small files and wait for each to reach the medium. Where there is memory enough they do so in
 * memory, three times as fast; what a full disk, a crash or a kill leaves behind is the same there.
 */
function useMemoryForTests() {
  const memory = '/dev/shm';
  try {
    const { bavail, bsize } = statfsSync(memory);
    if (Math.min(bavail * bsize, freemem()) < ROOM_FOR_TESTS) return;
    const folder = mkdtempSync(`${memory}/bright-cellar-tests-`);
    process.env['TMPDIR'] = folder;
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
    for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => process.exit(1));
  } catch {
    // No such place here: the disk it is.
  }
}

await runMain(async () => {
  const wanted = process.argv.slice(2);
  const unknown = wanted.find((name) => !names.includes(name));
  if (unknown) throw new Sentence(`Usage: npm test -- [${names.join('|')}]`);
  const isWanted = (/** @type {string} */ name) => wanted.length === 0 || wanted.includes(name);
  /** @type {ReturnType<typeof startLint>} */
  let linted = async () => undefined;
  // Neither of them asks for what Debian brings.
  const build = async () => {
    // From here on nobody is talked to but ourselves, and Node reads these at each of some hundred starts, used or not: three
    // quarters of what its start takes.
    delete process.env['NODE_EXTRA_CA_CERTS'];
    tidyTypesLate();
    if (isWanted('lint')) linted = startLint();
    await timed('Built', startBuild);
  };
  await ensurePackages(
    [
      'mariadb-server-core',
      'mariadb-client-core',
      'mariadb-client',
      'chromium-headless-shell',
      'age',
      'openssh-server',
      'openssh-client',
      'radicale',
      'iproute2',
      'curl',
      'libnss3-tools',
      // Read what we write.
      'python3-vobject',
      'python3-icalendar',
      'libimage-exiftool-perl',
    ],
    build,
  );
  useMemoryForTests();
  for (const [name, part] of Object.entries(parts)) {
    // Beside everything but the browser, which would miss its frames.
    if (name === 'e2e') await timed('lint, beside all before', linted);
    if (!isWanted(name)) continue;
    // What it found is told now, not after a quarter of an hour.
    await linted({ waits: false });
    say(`\n${name}`);
    await timed(name, part);
  }
  await linted();
});
