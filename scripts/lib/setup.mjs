// @ts-check
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { say, Sentence } from './say.mjs';

export const ROOT = fileURLToPath(new URL('../..', import.meta.url));

/** Debian packages by a file that each brings. */
const debianPackages = {
  'mariadb-server-core': '/usr/sbin/mariadbd',
  'mariadb-client-core': '/usr/bin/my_print_defaults',
  chromium: '/usr/bin/chromium',
  age: '/usr/bin/age',
  zstd: '/usr/bin/zstd',
};

/**
 * Installs the Debian packages that are missing, or says what to type where that is not allowed.
 * @param {(keyof typeof debianPackages)[]} wanted
 */
export function ensureDebianPackages(wanted) {
  const missing = wanted.filter((name) => !existsSync(debianPackages[name]));
  if (missing.length === 0) return;
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  if (process.getuid?.() !== 0) {
    throw new Sentence(`Missing Debian packages: ${missing.join(', ')}. Type: sudo ${command}`);
  }
  say(`Installing Debian packages: ${missing.join(', ')}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  // The package lists of a new machine are empty.
  for (const line of ['apt-get update -qq', command]) {
    const [program = '', ...args] = line.split(' ');
    const { status, stderr } = spawnSync(program, args, { env, encoding: 'utf8' });
    if (status !== 0) throw new Sentence(`“${line}” failed:\n${stderr.trim()}`);
  }
}

/** Installs the npm packages of the lock file, unless exactly those are there. */
export function ensureNpmPackages() {
  const lock = readFileSync(join(ROOT, 'package-lock.json'));
  const digest = createHash('sha256').update(lock).digest('hex');
  const stamp = join(ROOT, 'node_modules/.installed-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === digest) return;
  say('Installing npm packages');
  run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error']);
  writeFileSync(stamp, digest);
}

export function build() {
  say('Building');
  run('npm', ['run', '--silent', 'build']);
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
