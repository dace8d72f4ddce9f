// @ts-check
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { say, Sentence } from './say.mjs';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** Debian packages by a file that each brings. */
const debianPackages = {
  'mariadb-server-core': '/usr/sbin/mariadbd',
  'mariadb-client-core': '/usr/bin/my_print_defaults',
  'mariadb-client': '/usr/bin/mariadb-dump',
  'chromium-headless-shell': '/usr/bin/chromium-headless-shell',
  age: '/usr/bin/age',
  iproute2: '/usr/sbin/ip',
  curl: '/usr/bin/curl',
  'libnss3-tools': '/usr/bin/certutil',
  zstd: '/usr/bin/zstd',
  'python3-vobject': '/usr/lib/python3/dist-packages/vobject/__init__.py',
  'python3-icalendar': '/usr/lib/python3/dist-packages/icalendar/__init__.py',
  'libimage-exiftool-perl': '/usr/bin/exiftool',
  'openssh-server': '/usr/sbin/sshd',
  radicale: '/usr/bin/radicale',
  'openssh-client': '/usr/bin/ssh-keygen',
};

/**
 * Installs what is missing, from Debian and from npm, one beside the other: both wait for the network more than they work.
 * Where Debian’s may not be installed, says what to type, before anything is begun.
 * @param {(keyof typeof debianPackages)[]} wanted Debian's
 * @param {() => Promise<void>} [build] what needs npm's only, and is begun once they are there
 */
export async function ensurePackages(wanted, build = async () => undefined) {
  const missing = wanted.filter((name) => !existsSync(debianPackages[name]));
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  if (missing.length > 0 && process.getuid?.() !== 0) {
    throw new Sentence(`Missing Debian packages: ${missing.join(', ')}. Type: sudo ${command}`);
  }
  const installed = async () => {
    if (missing.length === 0) return;
    say(`Installing Debian packages: ${missing.join(', ')}`);
    // The package lists of a new machine are empty.
    for (const line of ['apt-get update -qq', command]) await runSilently(line);
  };
  const ends = await Promise.allSettled([installed(), ensureNpmPackages().then(build)]);
  for (const end of ends) if (end.status === 'rejected') throw end.reason;
}

/**
 * What it says is told when it fails only.
 * @param {string} line
 * @returns {Promise<void>}
 */
function runSilently(line) {
  const [program = '', ...args] = line.split(' ');
  const child = spawn(program, args, {
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
  let complaint = '';
  child.stderr.setEncoding('utf8').on('data', (piece) => (complaint += piece));
  return new Promise((resolve, reject) => {
    const fails = (/** @type {string} */ why) => reject(new Sentence(`“${line}” failed:\n${why}`));
    child.once('error', ({ message }) => fails(message));
    child.once('close', (code) => (code === 0 ? resolve() : fails(complaint.trim())));
  });
}

/** Installs the npm packages of the lock file, unless exactly those are there. */
async function ensureNpmPackages() {
  const lock = readFileSync(join(ROOT, 'package-lock.json'));
  const digest = createHash('sha256').update(lock).digest('hex');
  const stamp = join(ROOT, 'node_modules/.installed-lock');
  const isThere = existsSync(stamp) && readFileSync(stamp, 'utf8') === digest;
  if (isThere && ownPackages(lock).every((path) => existsSync(join(ROOT, path)))) return;
  say('Installing npm packages');
  // What is in npm’s cache is checked by the lock file’s digests: asking the registry for it again takes a fifth of the time.
  await runBeside('npm', ['ci', '--prefer-offline', '--loglevel=error']);
  writeFileSync(stamp, digest);
}

/**
 * Packages that lie below one of ours, since another of ours has another version of them.
 * @param {Buffer} lock
 */
function ownPackages(lock) {
  /** @type {{ packages: Record<string, { optional?: boolean }> }} */
  const { packages } = JSON.parse(lock.toString('utf8'));
  return Object.entries(packages)
    .filter(([path, { optional }]) => /^(?:packages|e2e)\/.*node_modules\//.test(path) && !optional)
    .map(([path]) => path);
}

/** Builds everything, unless exactly this was built before. */
export function build() {
  const stamp = join(ROOT, 'node_modules/.built');
  const state = sourceState();
  const wasBuilt = ['server/dist/main.js', 'web/dist/site/index.html', 'cli/dist'].every((path) =>
    existsSync(join(ROOT, 'packages', path)),
  );
  if (wasBuilt && existsSync(stamp) && readFileSync(stamp, 'utf8') === state) return;
  say('Building');
  run('npm', ['run', '--silent', 'build']);
  writeFileSync(stamp, state);
}

/** Stands for everything that a build is made from: names, lengths and times. */
function sourceState() {
  const hash = createHash('sha256');
  const visit = (/** @type {string} */ path) => {
    const info = statSync(path);
    if (!info.isDirectory()) {
      hash.update(`${path} ${info.size} ${info.mtimeMs}\n`);
      return;
    }
    for (const name of readdirSync(path).sort()) {
      const isMade = ['node_modules', 'dist'].includes(name) || name.endsWith('.tsbuildinfo');
      if (!isMade) visit(join(path, name));
    }
  };
  const parts = ['packages', 'package-lock.json', 'package.json', 'tsconfig.base.json'];
  for (const name of [...parts, 'scripts/lib/node-bundle.mjs']) {
    visit(join(ROOT, name));
  }
  return hash.digest('hex');
}

/**
 * @param {string} program
 * @param {string[]} args
 * @param {Record<string, string>} [env]
 */
export function run(program, args, env = {}) {
  const { status } = spawnSync(program, args, {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
  if (status !== 0) throw new Sentence(`“${program} ${args.join(' ')}” failed.`);
}

/**
 * The same beside whatever else goes on.
 * @param {string} program
 * @param {string[]} args
 * @param {Record<string, string>} [env]
 * @returns {Promise<void>}
 */
export function runBeside(program, args, env = {}) {
  const child = spawn(program, args, {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
  return new Promise((resolve, reject) => {
    child.once('error', reject);
    child.once('close', (code) =>
      code === 0 ? resolve() : reject(new Sentence(`“${[program, ...args].join(' ')}” failed.`)),
    );
  });
}
