import { makeMissingRows } from './archives/index.js';
import { readConfig, type Config } from './config.js';
import { connect, migrateDatabase, type Connection } from './database/connect.js';
import { openInstallation } from './kernel/installation.js';

/** Brings the database of an installation up to date. @returns the way to it, and what it is run with */
export async function prepared(
  environment: NodeJS.ProcessEnv,
): Promise<{ connection: Connection; config: Config }> {
  const config = readConfig(environment);
  openInstallation(config.data);
  const setupUrl = environment.CELLAR_DATABASE_SETUP_URL;
  if (!setupUrl) throw new Error('CELLAR_DATABASE_SETUP_URL is needed');
  await migrateDatabase(setupUrl, config.databaseUrl);
  const connection = connect(config.databaseUrl);
  // A catalogue from before there were such rows.
  await makeMissingRows(connection.db);
  return { connection, config };
}
