import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';
import { nodeBundle, threadsIn } from '../../scripts/lib/node-bundle.mjs';

const built = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig(
  nodeBundle('dist/bundle', {
    'cli/main': built('dist/main.js'),
    // By itself, for tests, which make passwords lighter.
    'cli/passphrase': built('../archive/dist/keys/passphrase.js'),
    ...threadsIn('threads/'),
  }),
);
