import { createGunzip, createGzip } from 'node:zlib';
import { Readable } from 'node:stream';
import { openAge, sealAge } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import { z } from 'zod';

/** The first line of a save: what it is, and what belongs to the catalogue beside its tables (docs/saved-catalogue.md). */
const headerSchema = z.object({
  format: z.literal('bright-cellar-catalogue'),
  version: z.literal(1),
  /** UTC. */
  savedAt: z.iso.datetime(),
  /** How many migrations its tables have. */
  migrations: z.int().min(1),
  /** What seals the secrets of racks in it; base64. */
  installationKey: z.base64(),
});
export type SaveHeader = z.infer<typeof headerSchema>;

const HEADER_MAX = 4096;

/** A save as it lies on racks: an age v1 file of gzip (RFC 1952) of the header, a line feed, and SQL. */
export function sealedSave(
  header: Omit<SaveHeader, 'format' | 'version'>,
  sql: AsyncIterable<Uint8Array>,
  recipient: string,
): AsyncIterable<Buffer> {
  async function* plain() {
    const whole: SaveHeader = { format: 'bright-cellar-catalogue', version: 1, ...header };
    yield Buffer.from(`${JSON.stringify(whole)}\n`);
    yield* sql;
  }
  const source = Readable.from(plain());
  const gzip = createGzip();
  source.once('error', (error) => gzip.destroy(error));
  return sealAge(source.pipe(gzip), { recipient });
}

/**
 * Opens one. @returns its header, and the SQL that follows: read it to its end, where it is known to be whole
 * @throws Failure `wrong-password` where the key is another’s, `package-damaged`
 */
export async function openSave(
  file: AsyncIterable<Uint8Array>,
  identity: string,
): Promise<{ header: SaveHeader; sql: AsyncGenerator<Buffer> }> {
  const opened = openAge(file, { identity });
  const gunzip = createGunzip();
  const source = Readable.from(opened);
  source.on('error', (error) => gunzip.destroy(error));
  const pieces = source.pipe(gunzip)[Symbol.asyncIterator]() as AsyncIterator<Buffer, undefined>;
  let held = Buffer.alloc(0);
  let end = -1;
  while (end < 0) {
    const piece = await next(pieces);
    if (piece === null) throw new Failure('package-damaged');
    held = Buffer.concat([held, piece]);
    end = held.indexOf('\n');
    if (end < 0 && held.length > HEADER_MAX) throw new Failure('package-damaged');
  }
  const header = headerSchema.safeParse(jsonOrNull(held.subarray(0, end).toString('utf8')));
  if (!header.success) throw new Failure('package-damaged');
  async function* sql() {
    if (held.length > end + 1) yield held.subarray(end + 1);
    for (;;) {
      const piece = await next(pieces);
      if (piece === null) return;
      yield piece;
    }
  }
  return { header: header.data, sql: sql() };
}

/** Null at the end. What is cut off or changed is damaged, whichever layer sees it first. */
async function next(pieces: AsyncIterator<Buffer, undefined>): Promise<Buffer | null> {
  try {
    return (await pieces.next()).value ?? null;
  } catch (error) {
    throw error instanceof Failure ? error : new Failure('package-damaged', {}, { cause: error });
  }
}

function jsonOrNull(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
