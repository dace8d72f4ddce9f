// @ts-check
import { rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { startProduct } from './lib/product.mjs';
import { mustBeFree, portFrom, runUntilStopped, typedOptions } from './lib/running.mjs';
import { runMain, say } from './lib/say.mjs';
import { build, ensurePackages, ROOT } from './lib/setup.mjs';

/** `npm run demo`: everything a fresh machine needs, then the product with made-up data, until Ctrl-C. */
await runMain(async () => {
  const { port, data, fresh } = readOptions();
  mustBeFree(data);
  await ensurePackages(['mariadb-server-core', 'mariadb-client-core', 'mariadb-client']);
  build();
  if (fresh) rmSync(data, { recursive: true, force: true });
  await runUntilStopped(data, async () => {
    const product = await startProduct({
      ...{
        data,
        port,
        benchPort: port + 1,
        tlsPort: port + 3,
        deskPort: port + 4,
        storagePort: port + 2,
      },
      demo: 'full',
      rate: 28_000_000,
    });
    say(`Bright Cellar is ready at ${product.address}`);
    say('Sign in as wren with the password lantern-steps-four');
    say(`The demo's devices are pressed on the stand-in tray at ${product.benchAddress}`);
    say(`Rented storage, a stand-in to be added as a rack: http://127.0.0.1:${port + 2}`);
    return product;
  });
});

function readOptions() {
  const values = typedOptions(
    {
      port: { type: 'string', default: '4680' },
      data: { type: 'string', default: join(ROOT, '.cellar') },
      fresh: { type: 'boolean', default: false },
    },
    'npm run demo -- [--port N] [--data DIR] [--fresh]',
  );
  return { port: portFrom(values.port, 4), data: resolve(values.data), fresh: values.fresh };
}
