import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import { classOfPath, Failure, isDataClass, type CommittedBackup } from '@bright-cellar/core';
import { extract, type Header } from 'tar-stream';
import { z } from 'zod';
import { backupHeaderSchema, type NewItem } from '../format/backup-lines.js';
import { jsonOrNull } from '../tools/json.js';
import type { Secret } from '../keys/holders.js';
import { BackupRun } from '../pack/backup-run.js';
import { timeOf } from '../pack/walk.js';
import type { ArchiveFiles } from '../store/archive-files.js';
import { bufferOver } from '../tools/buffer-over.js';
import { drained } from '../tools/drained.js';
import { Blake2BHasher } from '../tools/native.js';
import { openAge, type AgeSecret } from './age-payload.js';
import { ABOUT, checksumLine, CHECKSUMS, FORMAT_ATTRIBUTE, INDEX } from './export.js';
import { CONTENTS } from './index-page.js';

const READ_BYTES = 2 ** 20;

const aboutSchema = backupHeaderSchema
  .pick({ takenAt: true, label: true, ticket: true, device: true })
  .extend({
    format: z.literal('bright-cellar-package'),
    version: z.literal(1),
    items: z.int().min(0),
    bytes: z.int().min(0),
  });
type About = z.infer<typeof aboutSchema>;
const ABOUT_MAX = 64 * 2 ** 10;

export interface ImportOptions {
  /** The package's file. */
  from: string;
  packageSecret: AgeSecret;
  /** The archive that takes the backup in; a new one where there is none. */
  files: ArchiveFiles;
  secret: Secret;
  archive?: string;
  backup?: string;
  /** Only a package of this device is taken in, or one of a plain folder. */
  serial?: string;
  threads?: number;
  onProgress?: (bytes: number, items: number) => void;
  onTaken?: (item: NewItem) => void;
  /** Runs when all is on the medium and nothing has been decided yet. */
  beforeDeciding?: (committed: CommittedBackup) => Promise<void>;
  signal?: AbortSignal;
}

/**
 * Takes the backup of a package into an archive. It is accepted only when every file agrees with the
 * package's checksums and all that it announces is there; otherwise nothing of it stays.
 * @throws Failure `wrong-password`, `package-damaged`, and what `BackupRun.begin` throws.
 */
export async function importPackage(options: ImportOptions): Promise<CommittedBackup> {
  const { from, packageSecret, signal } = options;
  const file = createReadStream(from, { highWaterMark: READ_BYTES });
  const tar = extract({});
  const feeding = feed(Readable.from(openAge(file, packageSecret)), tar);
  // Waited for at the end: a failure is not unhandled until then.
  feeding.catch(() => undefined);
  const taking = new PackageTaking(options);
  try {
    for await (const entry of tar) {
      signal?.throwIfAborted();
      await taking.take(entry.header, entry as AsyncIterable<Uint8Array>);
    }
    await feeding;
    return await taking.accept();
  } catch (error) {
    await taking.refuse();
    // What feeds it knows better than what was fed: a wrong password, or where the package is damaged.
    await feeding;
    throw asFailure(error);
  } finally {
    file.destroy();
  }
}

async function feed(source: Readable, tar: ReturnType<typeof extract>): Promise<void> {
  try {
    for await (const piece of source as AsyncIterable<Buffer>) {
      if (tar.destroyed) return;
      if (!tar.write(piece)) await drained(tar);
    }
    tar.end(undefined);
  } catch (error) {
    tar.destroy(error instanceof Error ? error : new Error('unreadable'));
    throw error;
  }
}

const asFailure = (error: unknown) =>
  error instanceof Failure || !isTarError(error)
    ? error
    : new Failure('package-damaged', {}, { cause: error });

const isTarError = (error: unknown) =>
  error instanceof Error && /tar|header|Unexpected end/i.test(error.message);

class PackageTaking {
  readonly #options: ImportOptions;
  /** Over the lines that the list of checksums must have. */
  readonly #checksums = new Blake2BHasher();
  #about: About | null = null;
  #run: BackupRun | null = null;
  #checked = false;
  #items = 0;
  #bytes = 0;

  constructor(options: ImportOptions) {
    this.#options = options;
  }

  async take(header: Header, contents: AsyncIterable<Uint8Array>): Promise<void> {
    const name = header.name.replace(/\/$/, '').split('/').slice(1).join('/');
    if (name === ABOUT) await this.#takeAbout(contents);
    else if (name === CHECKSUMS) await this.#check(contents);
    else if (name === INDEX) await drain(contents);
    else if (name.startsWith(`${CONTENTS}/`)) {
      await this.#takeItem(header, name.slice(CONTENTS.length + 1), contents);
    } else throw new Failure('package-damaged');
  }

  async accept(): Promise<CommittedBackup> {
    const about = this.#about;
    const complete = this.#checked && about?.items === this.#items && about.bytes === this.#bytes;
    if (!this.#run || !complete) throw new Failure('package-damaged');
    const committed = await this.#run.commit(this.#options.beforeDeciding);
    this.#run = null;
    return committed;
  }

  async refuse(): Promise<void> {
    await this.#run?.discard();
    this.#run = null;
  }

  async #takeAbout(contents: AsyncIterable<Uint8Array>): Promise<void> {
    const parsed = aboutSchema.safeParse(jsonOrNull((await gather(contents)).toString('utf8')));
    if (!parsed.success || this.#run) throw new Failure('package-damaged');
    this.#about = parsed.data;
    const { takenAt, label, ticket, device } = parsed.data;
    const { onTaken, serial } = this.#options;
    if (serial !== undefined && device !== null && device.serial !== serial) {
      throw new Failure('archive-of-another', { what: 'The package is of another device.' });
    }
    this.#run = await BackupRun.begin({
      ...this.#options,
      ...{ label, ticket, device, takenAt: new Date(takenAt), isPackage: true },
      ...(onTaken ? { events: { taken: onTaken } } : {}),
    });
  }

  async #takeItem(header: Header, path: string, contents: AsyncIterable<Uint8Array>) {
    const run = this.#run;
    if (!run) throw new Failure('package-damaged');
    const item = itemOf(header, path);
    if (item.kind === 'link') {
      await drain(contents);
      await run.addContents(item, () => [Buffer.from(header.linkname)]);
    } else if (item.kind === 'folder') {
      await drain(contents);
      await run.addContents(item, () => []);
    } else {
      const hash = new Blake2BHasher();
      const { onProgress } = this.#options;
      await run.addContents(item, () =>
        seen(contents, (piece) => {
          hash.update(bufferOver(piece));
          onProgress?.(piece.length, 0);
        }),
      );
      this.#checksums.update(checksumLine(hash.digestBuffer(), `${CONTENTS}/${path}`));
    }
    this.#items += 1;
    this.#bytes += item.bytes;
    this.#options.onProgress?.(0, 1);
  }

  /** The list of checksums says exactly what came, in its order. */
  async #check(contents: AsyncIterable<Uint8Array>): Promise<void> {
    const list = new Blake2BHasher();
    for await (const piece of contents) list.update(bufferOver(piece));
    if (!list.digestBuffer().equals(this.#checksums.digestBuffer())) {
      throw new Failure('package-damaged');
    }
    this.#checked = true;
  }
}

function itemOf(header: Header, path: string): NewItem {
  const kind = header.type === 'directory' ? 'folder' : header.type === 'symlink' ? 'link' : 'file';
  if (kind === 'file' && header.type !== 'file') throw new Failure('package-damaged');
  const first = path.split('/')[0] ?? '';
  return {
    class: isDataClass(first) ? first : classOfPath(path),
    kind,
    path,
    bytes: kind === 'file' ? header.size : kind === 'link' ? Buffer.byteLength(header.linkname) : 0,
    modified: modifiedOf(header),
    mode: header.mode & 0o7777,
    mark: '',
    ...formatOf(header),
  };
}

/** A media type (RFC 6838). */
const formatSchema = z.object({
  [FORMAT_ATTRIBUTE]: z
    .string()
    .max(121)
    .regex(/^[a-z0-9][\w.+-]*\/[a-z0-9][\w.+-]*$/i),
});

/** What is no media type says nothing. */
function formatOf(header: Header): { format?: string } {
  const said = formatSchema.safeParse(header.pax).data;
  return said ? { format: said[FORMAT_ATTRIBUTE] } : {};
}

const paxSchema = z.object({ mtime: z.string().regex(/^-?\d{1,11}(?:\.\d{1,9})?$/) });

function modifiedOf(header: Header): string {
  const pax = paxSchema.safeParse(header.pax);
  if (!pax.success) return header.mtime.toISOString();
  const [, sign = '', seconds = '0', fraction = ''] =
    /^(-?)(\d+)(?:\.(\d+))?$/.exec(pax.data.mtime) ?? [];
  const size = BigInt(seconds) * 1_000_000_000n + BigInt(fraction.padEnd(9, '0'));
  return timeOf(sign ? -size : size);
}

async function gather(contents: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of contents) {
    bytes += piece.length;
    if (bytes > ABOUT_MAX) throw new Failure('package-damaged');
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}

async function drain(contents: AsyncIterable<Uint8Array>): Promise<void> {
  for await (const _piece of contents);
}

async function* seen(contents: AsyncIterable<Uint8Array>, look: (piece: Uint8Array) => void) {
  for await (const piece of contents) {
    look(piece);
    yield piece;
  }
}
