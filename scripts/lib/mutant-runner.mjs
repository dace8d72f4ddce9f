// @ts-check
import { readFileSync, writeFileSync } from 'node:fs';
import { createVitest } from 'vitest/node';

/**
 * Stays alive and tells, one change after the other, whether the unit tests that reach the changed file notice it: starting
 * Vitest anew for each took nearly all of the time. Runs in a copy of the repository; its parent ends it when it hangs.
 * Hears `{ file, from, to, text }`, answers `{ noticed }`.
 */
const vitest = await createVitest('test', {
  root: process.cwd(),
  config: 'vitest.config.ts',
  project: ['unit'],
  watch: false,
  silent: true,
  bail: 1,
  maxWorkers: 1,
  reporters: [{}],
});

/** @param {{ file: string, from: number, to: number, text: string }} mutant */
async function isNoticed({ file, from, to, text }) {
  const before = readFileSync(file, 'utf8');
  writeFileSync(file, before.slice(0, from) + text + before.slice(to));
  try {
    vitest.invalidateFile(file);
    vitest.config.related = [file];
    const wanted = await vitest.getRelevantTestSpecifications();
    const { unhandledErrors } = await vitest.runTestSpecifications(wanted, false);
    return (
      unhandledErrors.length > 0 || wanted.some(({ testModule }) => testModule && !testModule.ok())
    );
  } finally {
    writeFileSync(file, before);
    vitest.invalidateFile(file);
  }
}

process.on('message', async (mutant) => {
  const noticed = await isNoticed(/** @type {any} */ (mutant));
  process.send?.({ noticed });
});
process.send?.({ ready: true });
