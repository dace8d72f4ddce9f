import { createReadStream, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { text } from 'node:stream/consumers';
import { parseArgs } from 'node:util';
import { problemOf } from '@bright-cellar/core';
import {
  emptyDatabase,
  makeTriggers,
  migrationsMade,
  upgradeDatabase,
} from '../database/upgrade.js';
import { connect } from '../database/connect.js';
import { loadInto } from '../database/dump.js';
import { noteRestored } from '../settings/index.js';
import { openSave } from './format.js';

/**
 * `npm run restore-catalogue`: brings a saved catalogue back into an installation in which nobody is yet. The recovery key comes on
 * standard input. Nothing of it is left where the save is not whole.
 */
const { values } = parseArgs({
  options: { file: { type: 'string' }, data: { type: 'string' } },
});
const { file = '', data = '' } = values;
const setupUrl = process.env.CELLAR_DATABASE_SETUP_URL ?? '';
const url = process.env.CELLAR_DATABASE_URL ?? '';
const say = (line: string) => process.stdout.write(`${line}\n`);

const identity = (await text(process.stdin)).replaceAll(/\s/g, '').toUpperCase();
try {
  if ((await migrationsMade(setupUrl)) > 0) throw new Error('there is a catalogue here already');
  const { header, sql } = await openSave(createReadStream(file), identity);
  await loadInto(setupUrl, Readable.from(sql));
  await makeTriggers(setupUrl);
  if ((await migrationsMade(setupUrl)) !== header.migrations) throw new Error('tables are missing');
  const key = join(data, 'installation.key');
  rmSync(key, { force: true });
  writeFileSync(key, Buffer.from(header.installationKey, 'base64'), { mode: 0o600, flush: true });
  await upgradeDatabase({ setupUrl, url, folder: join(data, 'upgrades') });
  const connection = connect(url);
  await noteRestored(connection.db, header.savedAt, new Date());
  await connection.close();
  say(`The catalogue of ${header.savedAt} is back. Start the program: npm start -- --data ${data}`);
} catch (error) {
  const { code, what, next } = problemOf(error);
  await emptyDatabase(setupUrl).catch(() => undefined);
  const why =
    code === 'unexpected' && error instanceof Error ? `${error.message}.` : `${what} ${next}`;
  process.stderr.write(`Nothing was brought back: ${why}\n`);
  process.exitCode = 1;
}
