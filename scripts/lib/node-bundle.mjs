// @ts-check
import { fileURLToPath } from 'node:url';

/** Programs and threads as one file instead of some hundred: they start in half the time. */

/** What runs in threads of its own, by its place in the archive package: see its `workerUrl`. */
const threads = [
  'pack/sealing-thread',
  'open/reading-thread',
  'verify/checking-thread',
  'package/age-file-thread',
];

/** The archive's threads, by their names below the folder where `workerUrl` looks. @param {string} [folder] with a `/` */
export const threadsIn = (folder = '') =>
  Object.fromEntries(
    threads.map((module) => [
      `${folder}${module.slice(module.indexOf('/') + 1)}`,
      fileURLToPath(new URL(`../../packages/archive/dist/${module}.js`, import.meta.url)),
    ]),
  );

/**
 * Settings of Vite for what runs in Node, made from what the compiler wrote.
 * @param {string} outDir
 * @param {Record<string, string>} input modules by the names that they get
 * @returns {import('vite').UserConfig}
 */
export const nodeBundle = (outDir, input) => ({
  build: {
    ssr: true,
    outDir,
    // What the compiler wrote may lie there.
    emptyOutDir: outDir !== 'dist',
    target: 'node20',
    rollupOptions: {
      input,
      output: { entryFileNames: '[name].js', chunkFileNames: 'shared/[name].js' },
    },
  },
  // Programs of the machine's own are left where they are, and what most processes never load.
  ssr: {
    noExternal: true,
    external: [
      ...['@napi-rs/blake-hash', '@toondepauw/node-zstd'],
      ...[
        '@aws-sdk/client-s3',
        'ssh2-sftp-client',
        'pdfkit',
        'fontkit',
        'wawoff2',
        'bidi-js',
        'bwip-js',
        '@simplewebauthn/server',
      ],
      ...['sharp', '@node-rs/argon2', 'wavefile', 'opusscript', 'exifr'],
    ],
  },
  logLevel: 'warn',
});
