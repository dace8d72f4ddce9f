// @ts-check
import { resolve } from 'node:path';
import { startProduct } from './lib/product.mjs';
import { dataOption, mustBeFree, portFrom, runUntilStopped, typedOptions } from './lib/running.mjs';
import { runMain, say } from './lib/say.mjs';
import { newSetUpCode } from './lib/set-up-code.mjs';
import { build, ensurePackages } from './lib/setup.mjs';

/** `npm start`: a shop’s own installation, on its data folder, until it is stopped. Nothing in it is made up. */
await runMain(async () => {
  const { port, data, built } = readOptions();
  mustBeFree(data);
  if (!built) {
    await ensurePackages(['mariadb-server-core', 'mariadb-client-core', 'mariadb-client']);
    build();
  }
  await runUntilStopped(data, async () => {
    const setUpCode = newSetUpCode();
    const product = await startProduct({
      ...{ data, port, benchPort: port + 1, tlsPort: port + 3, deskPort: port + 4, setUpCode },
      demo: 'none',
    });
    say(`Bright Cellar is ready at ${product.address}`);
    const { needed } = await (await fetch(`${product.address}/api/set-up`)).json();
    if (needed) say(`Nobody keeps this shop yet. The first visit asks for this code: ${setUpCode}`);
    return product;
  });
});

function readOptions() {
  const values = typedOptions(
    {
      port: { type: 'string', default: '4680' },
      data: dataOption,
      // Whoever installed it did so: nothing is fetched or built.
      built: { type: 'boolean', default: false },
    },
    'npm start -- [--port N] [--data DIR] [--built]',
  );
  const { port, data, built } = values;
  return { port: portFrom(port, 4), data: resolve(data), built };
}
