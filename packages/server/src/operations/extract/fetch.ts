import { createReadStream } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join, relative } from 'node:path';
import { openPlain } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import { agreedOf } from '../../agreements/index.js';
import { operationRow } from '../../engine/index.js';
import { noteOnly } from '../../kernel/unit-of-work.js';
import { zipStream } from '../../kernel/zip-stream.js';
import { EXTRACTS, folderOf, rackHere } from '../../racks/index.js';
import type { Context } from '../../shop.js';
import { OPEN_FILE_NOT_AGREED } from './start.js';

/**
 * Open files that were taken out, with what lies beside them, as one ZIP file for whoever hands them to the customer.
 * @throws Failure `not-found`, `not-agreed`, `rack-not-here`
 */
export async function fetchTaken(
  context: Context,
  id: string,
): Promise<{ name: string; bytes: AsyncIterable<Uint8Array> }> {
  const row = await operationRow(context.db, id);
  if (row.kind !== 'extract' || row.ticketId === null || !row.result?.wrote)
    throw new Failure('not-found');
  if (!(await agreedOf(context.db, row.ticketId)).lookIn)
    throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
  const { rackId, ticket, what } = row.input;
  const folder = join(folderOf(await rackHere(context.db, rackId)), EXTRACTS, ticket);
  const wrote = row.result.wrote.split(', ');
  const beside = what.kind === 'records' ? await filesBelow(folder, `${what.fileName}-media`) : [];
  // Asked for before anything goes out: a file that is not there is told as that.
  for (const name of wrote) mustBeThere(join(folder, name));
  await noteOnly(context, {
    action: 'extract-fetched',
    what: `${wrote.length + beside.length} open files were fetched from a rack.`,
    ticketId: row.ticketId,
  });
  const bytes = zipStream((put) => {
    for (const name of [...wrote, ...beside])
      put(name, { compress: /\.(?:html|csv|xml|jsonl)$/.test(name) }, () =>
        contentsOf(join(folder, name)),
      );
  });
  return {
    name: `${what.kind === 'records' ? what.fileName : `${ticket}_applications`}.zip`,
    bytes,
  };
}

/** Plain files of a folder, by their paths from the one that it lies in; none where it is not there. */
async function filesBelow(folder: string, name: string): Promise<string[]> {
  const options = { recursive: true, withFileTypes: true } as const;
  const entries = await readdir(join(folder, name), options).catch(() => []);
  return entries
    .filter((entry) => entry.isFile() && !entry.name.endsWith('.new'))
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)))
    .sort();
}

/** Opened when it is read: a drive that left meanwhile ends the package, and nothing else. */
async function* contentsOf(path: string): AsyncGenerator<Uint8Array> {
  const pieces: AsyncIterable<Buffer> = createReadStream('', { fd: openPlain(path) });
  yield* pieces;
}

function mustBeThere(path: string): void {
  try {
    createReadStream('', { fd: openPlain(path) }).destroy();
  } catch (error) {
    throw new Failure(
      'not-found',
      {
        what: 'What was taken out does not lie on its rack any more.',
        next: 'Take it out again.',
      },
      { cause: error },
    );
  }
}
