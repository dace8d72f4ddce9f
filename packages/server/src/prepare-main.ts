import { UpgradeFailure } from './database/upgrade.js';
import { prepared } from './prepare.js';

/** Before the first process of an installation starts: its database is brought up to date, and nothing is put in it. */
try {
  const { connection } = await prepared(process.env);
  await connection.close();
} catch (error) {
  if (!(error instanceof UpgradeFailure)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
}
