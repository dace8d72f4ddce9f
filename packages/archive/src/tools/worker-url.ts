/**
 * Where a worker thread's code is, as one file that `vite.config.ts` makes. Threads cannot run TypeScript: tests that run
 * this package from its source use the threads that were built.
 * @param name of the module, without its ending.
 * @param from `import.meta.url` of a module one folder below what it was built into.
 */
export function workerUrl(name: string, from: string): URL {
  return new URL(`${from.endsWith('.ts') ? '../../dist' : '..'}/threads/${name}.js`, from);
}
