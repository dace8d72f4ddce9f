import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';

const require = createRequire(import.meta.url);

/**
 * Where a worker thread's code is, as `scripts/lib/node-bundle.mjs` makes it, whatever program this module was built into.
 * Threads cannot run TypeScript: tests that run this package from its source use the threads that were built.
 * @param name of the module, without its ending.
 */
export const workerUrl = (name: string): URL =>
  pathToFileURL(require.resolve(`@bright-cellar/archive/threads/${name}`));
