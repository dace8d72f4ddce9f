import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';
import { nodeBundle, threadsIn } from '../../scripts/lib/node-bundle.mjs';

const built = (path: string) => fileURLToPath(new URL(path, import.meta.url));

// Beside what the compiler wrote, one folder below as that is: what the package brings with it is found from there.
export default defineConfig(
  nodeBundle('dist', {
    'run/main': built('dist/main.js'),
    'run/work': built('dist/work/main.js'),
    'run/prepare': built('dist/prepare-main.js'),
    'run/load': built('dist/demo/load.js'),
    // By themselves, for tests and the demo, which make passwords lighter.
    'run/passphrase': built('../archive/dist/keys/passphrase.js'),
    'run/strong-password': built('dist/kernel/strong-password.js'),
    'threads/merging-thread': built('dist/operations/sync/merging-thread.js'),
    ...threadsIn('threads/'),
  }),
);
