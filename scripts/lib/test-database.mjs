// @ts-check
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startDatabase } from './database.mjs';

/**
 * One MariaDB for all tests that need a database and nothing else of the product: making its data folder takes longer than
 * most of them. Each test file makes a database of its own on it.
 * @param {import('vitest/node').TestProject} project
 */
export async function setup(project) {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-database-'));
  const started = await startDatabase(folder);
  const addresses = { url: started.urlOf('NAME'), setupUrl: started.setupUrlOf('NAME') };
  // Its type is said where it is injected, in the package whose tests these are.
  project.provide(/** @type {never} */ ('database'), /** @type {never} */ (addresses));
  return () => {
    started.kill();
    rmSync(folder, { recursive: true, force: true });
  };
}
