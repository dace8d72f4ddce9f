import { makeMissingRows } from './archives/index.js';
import { readConfig, type Config } from './config.js';
import { connect, type Connection } from './database/connect.js';
import { upgradeDatabase } from './database/upgrade.js';
import { installationFolder, openInstallation } from './kernel/installation.js';
import { makeSave, recoveryOf } from './saves/index.js';
import { readDecided } from './settings/index.js';

/**
 * Brings the database of an installation up to date. What was there before is saved first: as a snapshot here, and sealed, to be
 * put onto the racks once the program runs.
 * @returns the way to it, and what it is run with
 * @throws UpgradeFailure
 */
export async function prepared(
  environment: NodeJS.ProcessEnv,
): Promise<{ connection: Connection; config: Config }> {
  const config = readConfig(environment);
  openInstallation(config.data);
  const setupUrl = environment.CELLAR_DATABASE_SETUP_URL;
  if (!setupUrl) throw new Error('CELLAR_DATABASE_SETUP_URL is needed');
  await upgradeDatabase({
    ...{ setupUrl, url: config.databaseUrl, folder: installationFolder('upgrades') },
    before: (migrations) => saveBefore(setupUrl, migrations),
  });
  const connection = connect(config.databaseUrl);
  // A catalogue from before there were such rows.
  await makeMissingRows(connection.db);
  return { connection, config };
}

async function saveBefore(setupUrl: string, migrations: number): Promise<void> {
  const connection = connect(setupUrl);
  try {
    const recovery = recoveryOf(await readDecided(connection.db));
    if (recovery) await makeSave(setupUrl, recovery.recipient, new Date(), migrations);
  } finally {
    await connection.close();
  }
}
