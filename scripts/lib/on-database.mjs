// @ts-check
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { isRunningIn, startDatabase } from './database.mjs';
import { Sentence } from './say.mjs';

/**
 * Does something with the database of an installation: with the one that runs, or with one that is started for it and
 * stopped again.
 * @param {string} data the installation’s folder
 * @param {(database: { url: string, setupUrl: string }) => Promise<void>} work
 */
export async function runOnDatabase(data, work) {
  const folder = join(data, 'database');
  if (!existsSync(folder)) throw new Sentence(`There is no installation in ${data}.`);
  const wasRunning = isRunningIn(folder);
  const database = await startDatabase(folder);
  try {
    await work(database);
  } finally {
    if (wasRunning) database.leave();
    else await database.stop();
  }
}
