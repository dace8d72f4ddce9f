// @ts-check
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { runOnDatabase } from './lib/on-database.mjs';
import { dataOption, typedOptions } from './lib/running.mjs';
import { runMain, Sentence } from './lib/say.mjs';
import { ROOT } from './lib/setup.mjs';

const USAGE = 'npm run audit:check -- [--data DIR | --file FILE] [--head SEAL]';

/** `npm run audit:check`: whether the record of who did what is as it was written, running or not; or a file that was taken out. */
await runMain(async () => {
  const { data, file, head } = typedOptions(
    { data: dataOption, file: { type: 'string' }, head: { type: 'string', default: '' } },
    USAGE,
  );
  const main = join(ROOT, 'packages/server/dist/audit/check-main.js');
  const args = [main, '--head', head];
  if (file !== undefined) {
    if (!existsSync(file)) throw new Sentence(`There is no file ${file}.`);
    return runCheck([...args, '--file', resolve(file)]);
  }
  await runOnDatabase(resolve(data), ({ url }) => runCheck(args, { CELLAR_DATABASE_URL: url }));
});

/**
 * It says itself what it found; this ends as it did.
 * @param {string[]} args @param {Record<string, string>} [env]
 */
async function runCheck(args, env = {}) {
  const child = spawn(process.execPath, args, {
    stdio: 'inherit',
    env: { ...process.env, ...env },
  });
  const [code] = await once(child, 'close');
  process.exitCode = code ?? 1;
}
