// @ts-check
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { startDatabase } from './lib/database.mjs';
import { dataOption, typedOptions } from './lib/running.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';
import { build, ensurePackages, ROOT } from './lib/setup.mjs';

const SAVE = /^\.catalogue-[\da-f]{8}-\d{8}T\d{9}Z-\d+\.age$/;

/**
 * `npm run restore-catalogue`: on a new computer, or after the old one’s disk: a saved catalogue is brought back into a data folder in
 * which nothing is. The recovery key is asked for, and typed or piped in; it never stands on the command line.
 */
await runMain(async () => {
  const { data, from, built } = typedOptions(
    { data: dataOption, from: { type: 'string' }, built: { type: 'boolean', default: false } },
    'npm run restore-catalogue -- --from RACK-OR-FILE [--data DIR] [--built]',
  );
  if (from === undefined) {
    throw new Sentence(
      'Say where a save lies: --from, and the folder of a rack, or one of its files.',
    );
  }
  const file = newestIn(resolve(from));
  const folder = resolve(data);
  if (existsSync(join(folder, 'database'))) {
    throw new Sentence(
      `There is an installation in ${folder}. Choose a folder in which nothing is.`,
    );
  }
  if (!built) {
    await ensurePackages(['mariadb-server-core', 'mariadb-client-core', 'mariadb-client']);
    build();
  }
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const database = await startDatabase(join(folder, 'database'));
  try {
    if (process.stdin.isTTY)
      say('Type the recovery key (AGE-SECRET-KEY-1…), then Enter and Ctrl-D:');
    const main = join(ROOT, 'packages/server/dist/saves/restore-main.js');
    const child = spawn(process.execPath, [main, '--file', file, '--data', folder], {
      stdio: 'inherit',
      env: {
        ...process.env,
        CELLAR_DATABASE_URL: database.url,
        CELLAR_DATABASE_SETUP_URL: database.setupUrl,
      },
    });
    const [code] = await once(child, 'close');
    process.exitCode = code ?? 1;
  } finally {
    await database.stop();
  }
});

/** The newest save in a folder, or the file itself. @param {string} path */
function newestIn(path) {
  if (!existsSync(path)) throw new Sentence(`There is no ${path}.`);
  if (!statSync(path).isDirectory()) return path;
  const newest = readdirSync(path)
    .filter((name) => SAVE.test(name))
    .sort((a, b) => timeOf(a).localeCompare(timeOf(b)))
    .at(-1);
  if (!newest) throw new Sentence(`No saved catalogue lies in ${path}.`);
  say(`Bringing back ${newest}`);
  return join(path, newest);
}

/** @param {string} name */
const timeOf = (name) => name.split('-').at(-2) ?? '';
