// @ts-check
import { join } from 'node:path';
import { ROOT } from './setup.mjs';

/**
 * Programs and threads, made from what the compiler wrote: what one needs to start is one file instead of some hundred, and what it
 * loads later lies beside. Each is made by itself, so that none loads what only others need: they start in a third of the time.
 */

/** What most processes never load, and programs of the machine's own. */
const leftWhereItIs = [
  ...['@napi-rs/blake-hash', '@toondepauw/node-zstd', '@node-rs/argon2', 'sharp'],
  ...['@aws-sdk/client-s3', 'ssh2-sftp-client', '@simplewebauthn/server'],
  ...['pdfkit', 'fontkit', 'wawoff2', 'bidi-js', 'bwip-js'],
  ...['wavefile', 'opusscript', 'exifr'],
];

/**
 * @param {string} outDir below `packages`. Where a program is in `dist/<folder>`, what its package brings with it is found from there
 *   as from what the compiler wrote
 * @param {string} name
 * @param {string} module below `packages`
 * @param {Record<string, string>} [parts] modules that others may load by themselves, by what follows the program's name in theirs
 * @returns {import('vite').InlineConfig}
 */
const bundle = (outDir, name, module, parts = {}) => {
  const built = (/** @type {string} */ path) => join(ROOT, 'packages', `${path}.js`);
  const others = Object.entries(parts).map(([part, path]) => [`${name}.${part}`, built(path)]);
  return {
    configFile: false,
    root: ROOT,
    build: {
      ssr: true,
      outDir: join(ROOT, 'packages', outDir),
      // What the compiler wrote may lie there, and other programs.
      emptyOutDir: false,
      target: 'node20',
      rollupOptions: {
        input: { [name]: built(module), ...Object.fromEntries(others) },
        output: {
          entryFileNames: '[name].js',
          chunkFileNames: `${name}.[name].js`,
          // To find and open a file takes as long as to read a hundred kilobytes of it. What begins the program is by itself: what it
          // loads while it begins needs the rest, and would wait for it for ever.
          codeSplitting: {
            groups: [{ name: 'start', tags: ['$initial'], test: (id) => id !== built(module) }],
          },
        },
      },
    },
    ssr: { noExternal: true, external: leftWhereItIs },
    logLevel: 'warn',
  };
};

/** What tests and the demo make lighter: see `light-work.mjs`. */
const passphrase = 'archive/dist/keys/passphrase';
const ofServer = { passphrase, 'strong-password': 'server/dist/kernel/strong-password' };

export const bundles = [
  // For every program that has archives: see `workerUrl`.
  bundle('archive/dist/threads', 'sealing-thread', 'archive/dist/pack/sealing-thread'),
  bundle('archive/dist/threads', 'reading-thread', 'archive/dist/open/reading-thread'),
  bundle('archive/dist/threads', 'checking-thread', 'archive/dist/verify/checking-thread'),
  bundle('archive/dist/threads', 'age-file-thread', 'archive/dist/package/age-file-thread'),
  bundle('cli/dist/bundle', 'cli/main', 'cli/dist/main', { passphrase }),
  bundle('server/dist', 'run/main', 'server/dist/main', ofServer),
  bundle('server/dist', 'run/work', 'server/dist/work/main', ofServer),
  bundle('server/dist', 'run/load', 'server/dist/demo/load', ofServer),
  bundle('server/dist', 'run/prepare', 'server/dist/prepare-main'),
  bundle('server/dist', 'threads/merging-thread', 'server/dist/operations/sync/merging-thread'),
  bundle('adapter/dist', 'program', 'adapter/dist/main'),
  bundle('bench/dist', 'program', 'bench/dist/main'),
];
