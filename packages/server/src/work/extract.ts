import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, open, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { countOf, Failure, type DataClass } from '@bright-cellar/core';
import {
  isOfSet,
  keyed,
  namesIn,
  recordsOf,
  writeExtract,
  type ExtractRecord,
} from '@bright-cellar/core/extract';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { OperationResult } from '@bright-cellar/contract';
import { ZipFile } from 'yazl';
import type { ExtractInput } from './inputs.js';
import type { Ending, Job } from './job.js';
import { linkFailure } from './link-failures.js';

type Records = Extract<ExtractInput['what'], { kind: 'records' }>;
type Applications = Extract<ExtractInput['what'], { kind: 'applications' }>;

/** Takes one narrow set out of a device into an open file, or single applications into packages. */
export async function extractFromDevice(job: Job<ExtractInput>): Promise<Ending> {
  const began = Date.now();
  const { what, folder } = job.input;
  await mkdir(folder, { recursive: true });
  try {
    const done = await (what.kind === 'records'
      ? takeRecords(job, what)
      : takeApplications(job, what));
    const result: OperationResult = {
      ...done,
      storedBytes: null,
      newItems: done.added,
      newBytes: null,
      durationMs: Date.now() - began,
      digest: null,
      compared: null,
    };
    const failed = done.failed.reduce((sum, f) => sum + f.count, 0);
    return {
      what: `Taken out: ${countOf(done.items, what.kind === 'records' ? 'record' : 'application')}, ${failed} failed.`,
      result,
      record: async () => undefined,
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was taken out.',
      safe: 'Files that were there before are as they were.',
      next: 'Connect the device and start again.',
    });
  }
}

interface Taken {
  items: number;
  bytes: number;
  added: number;
  failed: OperationResult['failed'];
  wrote: string;
}

class Failures {
  readonly #found = new Map<string, OperationResult['failed'][number]>();

  add(dataClass: DataClass, reason: string): void {
    const key = `${dataClass} ${reason}`;
    const count = (this.#found.get(key)?.count ?? 0) + 1;
    this.#found.set(key, { class: dataClass, reason, count });
  }

  all(): OperationResult['failed'] {
    return [...this.#found.values()];
  }
}

async function takeRecords(job: Job<ExtractInput>, what: Records): Promise<Taken> {
  const failures = new Failures();
  const dataClass: DataClass =
    what.set === 'messages' || what.set === 'calls' ? what.set : 'applications';
  const listed = await listing(job, dataClass);
  const wanted = listed.filter((entry) => isOfSet(what.set, entry));
  await job.progress.phase('taking', amountOf(wanted));
  const found: Omit<ExtractRecord, 'key'>[] = [];
  for (const entry of wanted) {
    const contents = await contentsOf(job, entry, failures);
    if (!contents) continue;
    try {
      found.push(...recordsOf(what.set, entry.path, textOf(entry, contents)));
    } catch {
      failures.add(dataClass, 'it is not what its kind should be');
    }
  }
  const records = keyed(found);
  const names = what.named ? await contactNames(job) : new Map<string, string>();
  const path = join(job.input.folder, what.fileName);
  const before = what.append ? await fileSoFar(path) : null;
  let written;
  try {
    written = writeExtract(what.format, records, { dates: what.dates, names }, before);
  } catch (error) {
    throw new Failure(
      'already-exists',
      {
        what: 'The file that should be added to is not one of these, or was changed.',
        safe: 'It was not changed.',
        next: 'Take a new file instead.',
      },
      { cause: error },
    );
  }
  await job.progress.phase('writing', { bytes: 0, items: 0 });
  await replaceFile(path, written.file);
  if (what.media) await takeMedia(job, records, listed, `${path}-media`, failures);
  return {
    items: records.length,
    bytes: Buffer.byteLength(written.file),
    added: written.added,
    failed: failures.all(),
    wrote: what.fileName,
  };
}

/** Old handsets write in an eight-bit encoding; everything else is UTF-8. */
function textOf(entry: Entry, contents: Buffer): string {
  return contents.toString(
    entry.path.endsWith('.jsonl') ? 'utf8' : isUtf8(contents) ? 'utf8' : 'latin1',
  );
}
const isUtf8 = (contents: Buffer) => !contents.toString('utf8').includes('\ufffd');

async function contactNames(job: Job<ExtractInput>): Promise<Map<string, string>> {
  const names = new Map<string, string>();
  for (const entry of await listing(job, 'contacts')) {
    const contents = await contentsOf(job, entry, new Failures());
    if (!contents) continue;
    try {
      for (const [number, name] of namesIn(textOf(entry, contents))) names.set(number, name);
    } catch {
      // A card that cannot be read names nobody; its numbers stand as they are.
    }
  }
  return names;
}

async function takeMedia(
  job: Job<ExtractInput>,
  records: readonly ExtractRecord[],
  listed: readonly Entry[],
  folder: string,
  failures: Failures,
): Promise<void> {
  const wanted = new Set(records.flatMap((r) => (r.attachment ? [r.attachment] : [])));
  await mkdir(folder, { recursive: true });
  for (const entry of listed.filter((e) => wanted.has(e.path))) {
    const contents = await contentsOf(job, entry, failures);
    if (contents) await replaceFile(join(folder, basename(entry.path)), contents);
  }
}

/** Each application with its data as a package: docs/application-package.md. */
async function takeApplications(job: Job<ExtractInput>, what: Applications): Promise<Taken> {
  const failures = new Failures();
  const listed = await listing(job, 'applications');
  const chosen = what.applications.map((application) => ({
    ...application,
    entries: listed.filter((e) => e.group === application.id && e.kind === 'file'),
  }));
  await job.progress.phase('taking', amountOf(chosen.flatMap((c) => c.entries)));
  let items = 0;
  let bytes = 0;
  const names: string[] = [];
  for (const { id, name, entries } of chosen) {
    const zip = new ZipFile();
    const files: { path: string; bytes: number; sha512: string; modified: string }[] = [];
    let whole = true;
    for (const entry of entries) {
      const contents = await contentsOf(job, entry, failures);
      if (!contents) {
        whole = false;
        continue;
      }
      const path = entry.path.split('/').slice(2).join('/');
      const sha512 = createHash('sha512').update(contents).digest('hex');
      files.push({ path, bytes: contents.length, sha512, modified: entry.modified });
      zip.addBuffer(contents, `data/${path}`, { mtime: new Date(entry.modified) });
    }
    // An application with half of its data is none: all of it or nothing.
    if (!whole || files.length === 0) continue;
    const manifest = {
      format: 'application-package',
      version: 1,
      id,
      name,
      device: what.device,
      files,
    };
    zip.addBuffer(Buffer.from(`${JSON.stringify(manifest, null, 2)}\n`), 'manifest.json');
    zip.end();
    const file = `${id}.application.zip`;
    const path = join(job.input.folder, file);
    await pipeline(zip.outputStream, createWriteStream(`${path}.new`));
    await settled(`${path}.new`);
    await rename(`${path}.new`, path);
    names.push(file);
    items += 1;
    bytes += files.reduce((sum, f) => sum + f.bytes, 0);
  }
  return { items, bytes, added: items, failed: failures.all(), wrote: names.join(', ') };
}

async function listing({ link, deviceId, signal }: Job<ExtractInput>, dataClass: DataClass) {
  const entries: Entry[] = [];
  for await (const entry of link.entries(deviceId ?? '', dataClass, signal)) entries.push(entry);
  return entries;
}

const amountOf = (entries: readonly Entry[]) => ({
  items: entries.length,
  bytes: entries.reduce((sum, e) => sum + e.bytes, 0),
});

/** Null when the device does not give it out; that is counted. */
async function contentsOf(
  { link, deviceId, signal, progress }: Job<ExtractInput>,
  entry: Entry,
  failures: Failures,
): Promise<Buffer | null> {
  const pieces: Uint8Array[] = [];
  try {
    for await (const piece of link.read(deviceId ?? '', entry, signal)) {
      pieces.push(piece);
      progress.add(piece.length, 0);
    }
  } catch (error) {
    if (!(error instanceof LinkError) || !['sealed', 'read-error', 'changed'].includes(error.code))
      throw error;
    failures.add(
      entry.class,
      error.code === 'sealed' ? 'its store is sealed' : 'the device could not read it',
    );
    return null;
  } finally {
    progress.add(0, 1);
  }
  return Buffer.concat(pieces);
}

/** Null only where there is none: a file that cannot be read must not be taken for a new one, and replaced. */
async function fileSoFar(path: string): Promise<string | null> {
  try {
    return await readFile(path, 'utf8');
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null;
    throw new Failure(
      'rack-not-here',
      {
        what: 'The file that should be added to cannot be read.',
        safe: 'It was not changed.',
        next: 'Look at the rack, or take a new file instead.',
      },
      { cause: error },
    );
  }
}

/** A file is there whole or not at all, whatever happens. */
async function replaceFile(path: string, contents: string | Uint8Array): Promise<void> {
  const unfinished = `${path}.new`;
  try {
    await writeFile(unfinished, contents, { mode: 0o600 });
    await settled(unfinished);
    await rename(unfinished, path);
  } catch (error) {
    await rm(unfinished, { force: true });
    throw new Failure(
      'rack-full',
      { safe: 'The file that was there before is as it was.' },
      { cause: error },
    );
  }
}

async function settled(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}
