import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const archive = (name: string) =>
  fileURLToPath(new URL(`../archive/dist/${name}.js`, import.meta.url));
/** Threads are found by these names: see the archive package's `workerUrl`. */
const threads = [
  'pack/sealing-thread',
  'open/reading-thread',
  'verify/checking-thread',
  'package/age-file-thread',
];

/** One file instead of some hundred: `cellar` starts in a fraction of the time. */
export default defineConfig({
  build: {
    ssr: true,
    outDir: 'dist/bundle',
    emptyOutDir: true,
    target: 'node20',
    rollupOptions: {
      input: {
        'cli/main': fileURLToPath(new URL('dist/main.js', import.meta.url)),
        ...Object.fromEntries(threads.map((name) => [name, archive(name)])),
      },
      output: { entryFileNames: '[name].js', chunkFileNames: 'shared/[name].js' },
    },
  },
  ssr: { noExternal: true, external: ['@napi-rs/blake-hash', '@toondepauw/node-zstd'] },
  logLevel: 'warn',
});
