// @ts-check
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { runOnDatabase } from './lib/on-database.mjs';
import { isAlive } from './lib/processes.mjs';
import { dataOption, typedOptions } from './lib/running.mjs';
import { runMain } from './lib/say.mjs';
import { ROOT } from './lib/setup.mjs';

/** `npm run doctor`: how an installation is, and what to do; whether it runs or not. */
await runMain(async () => {
  const { data, port } = typedOptions(
    { data: dataOption, port: { type: 'string', default: '4680' } },
    'npm run doctor -- [--data DIR] [--port N]',
  );
  const folder = resolve(data);
  const lock = join(folder, 'run/start.pid');
  const runs = existsSync(lock) && isAlive(Number(readFileSync(lock, 'utf8')));
  await runOnDatabase(folder, async ({ url }) => {
    const main = join(ROOT, 'packages/server/dist/condition/doctor-main.js');
    const child = spawn(process.execPath, [main], {
      stdio: 'inherit',
      env: {
        ...process.env,
        CELLAR_DATABASE_URL: url,
        CELLAR_DATA: folder,
        // Neither is spoken with.
        CELLAR_LINK_ADDRESS: 'http://127.0.0.1:1',
        CELLAR_LINK_TOKEN: 'nobody-is-spoken-with',
        CELLAR_WORK_SOCKET: join(folder, 'run/work.sock'),
        ...(runs ? { CELLAR_RUNS_AT: `http://127.0.0.1:${port}` } : {}),
      },
    });
    const [code] = await once(child, 'close');
    process.exitCode = code ?? 1;
  });
});
