/**
 * Where a worker thread's code is. Threads cannot run TypeScript: tests that run this package from its
 * source use the threads that were built.
 * @param name of the module below this package's source folder, without its ending.
 * @param from `import.meta.url` of a module one folder below it.
 */
export function workerUrl(name: string, from: string): URL {
  return new URL(from.endsWith('.ts') ? `../../dist/${name}.js` : `../${name}.js`, from);
}
