import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { parseArgs } from 'node:util';
import { z } from 'zod';
import { connect } from '../database/connect.js';
import { checkAudit, follow, type SealedEntry } from './check.js';

/**
 * `npm run audit:check`: the record of an installation, or one that was taken out as lines. Ends with 1 where it does not
 * follow, or has no entry with the seal that was printed.
 */
const { values } = parseArgs({
  options: { file: { type: 'string' }, head: { type: 'string', default: '' } },
});
const { file, head } = values;
const found = file === undefined ? await ofInstallation() : await follow(linesOf(file), head);

const say = (line: string) => process.stdout.write(`${line}\n`);
say(`${found.entries} entries follow each other; the last has the seal ${found.digest}.`);
if (found.broken) {
  const { entry, at } = found.broken;
  say(
    at === null
      ? `Entry ${entry} and all after it are missing.`
      : `Entry ${entry}, of ${at}, does not follow: it was changed, or one before it was taken away.`,
  );
}
if (head !== '' && found.printedAt) {
  say(
    `The seal that was printed is that of entry ${found.printedAt.entry}, of ${found.printedAt.at}.`,
  );
}
const isMissed = head !== '' && found.printedAt === null;
if (isMissed) say('No entry has the seal that was printed.');
process.exitCode = found.broken || isMissed ? 1 : 0;

async function ofInstallation() {
  const url = process.env.CELLAR_DATABASE_URL;
  if (!url) throw new Error('CELLAR_DATABASE_URL is needed');
  const connection = connect(url);
  try {
    return await checkAudit(connection.db, head);
  } finally {
    await connection.close();
  }
}

/** A file of the record as lines, whole: from its first entry on. */
async function* linesOf(path: string): AsyncGenerator<SealedEntry[]> {
  const schema = z.object({
    at: z.iso.datetime().transform((text) => new Date(text)),
    technicianId: z.string().nullable(),
    ticketId: z.string().nullable(),
    action: z.string(),
    what: z.string(),
    digest: z.string(),
  });
  let number = 0;
  for await (const line of createInterface(createReadStream(path, 'utf8'))) {
    number += 1;
    if (line === '') continue;
    const read = schema.safeParse(parsed(line));
    if (!read.success) {
      process.stderr.write(`Line ${number} is no entry of a record.\n`);
      process.exit(2);
    }
    yield [read.data];
  }
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return null;
  }
}
