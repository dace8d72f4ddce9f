// @ts-check
import { rmSync, writeFileSync, existsSync, readFileSync, mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { isAlive } from './lib/processes.mjs';
import { startProduct } from './lib/product.mjs';
import { runMain, say, Sentence } from './lib/say.mjs';
import { build, ensureDebianPackages, ensureNpmPackages, ROOT } from './lib/setup.mjs';

/** `npm run demo`: everything a fresh machine needs, then the product with made-up data, until Ctrl-C. */
await runMain(async () => {
  const { port, data, fresh } = readOptions();
  const lock = join(data, 'run/demo.pid');
  const other = existsSync(lock) ? Number(readFileSync(lock, 'utf8')) : 0;
  if (other && isAlive(other)) {
    throw new Sentence(
      `Bright Cellar is running on ${data} already (process ${other}). Stop it, or choose another folder with --data DIR.`,
    );
  }
  ensureDebianPackages(['mariadb-server-core', 'mariadb-client-core']);
  ensureNpmPackages();
  build();
  if (fresh) rmSync(data, { recursive: true, force: true });
  mkdirSync(join(data, 'run'), { recursive: true });
  writeFileSync(lock, String(process.pid));

  const interrupted = new Promise((done) => {
    process.once('SIGINT', done);
    process.once('SIGTERM', done);
  });
  let product;
  try {
    product = await startProduct({
      data,
      port,
      benchPort: port + 1,
      storagePort: port + 2,
      demo: 'full',
      rate: 28_000_000,
    });
    say(`Bright Cellar is ready at ${product.address}`);
    say('Sign in as wren with the password lantern-steps-four');
    say(`The demo's devices are pressed on the stand-in tray at ${product.benchAddress}`);
    say(`Rented storage, a stand-in to be added as a rack: http://127.0.0.1:${port + 2}`);
    await interrupted;
    say('Stopping');
  } finally {
    await product?.stop();
    rmSync(lock, { force: true });
  }
});

function readOptions() {
  let values;
  try {
    ({ values } = parseArgs({
      options: {
        port: { type: 'string', default: '4680' },
        data: { type: 'string', default: join(ROOT, '.cellar') },
        fresh: { type: 'boolean', default: false },
      },
    }));
  } catch {
    throw new Sentence('Usage: npm run demo -- [--port N] [--data DIR] [--fresh]');
  }
  const port = Number(values.port);
  if (!Number.isInteger(port) || port < 1 || port > 65_533) {
    throw new Sentence(`--port takes a number from 1 to 65533, not “${values.port}”.`);
  }
  return { port, data: resolve(values.data), fresh: values.fresh };
}
