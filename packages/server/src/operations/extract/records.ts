import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { mkdirInside } from '@bright-cellar/archive';
import {
  daysWanted,
  extractSetName,
  Failure,
  type DataClass,
  type ExtractFormat,
} from '@bright-cellar/core';
import {
  extractOf,
  isOfSet,
  keyed,
  mediaPath,
  namesIn,
  plainStyle,
  writeExtract,
  type ExtractRecord,
  type ExtractStyle,
  type Thread,
} from '@bright-cellar/core/extract';
import { kindOf, parseRecords } from '@bright-cellar/core/formats';
import type { Entry } from '@bright-cellar/device-link';
import { inOne } from '../../kernel/in-one.js';
import { isThere, writeOpenFile } from '../../kernel/open-file.js';
import {
  amountOf,
  Failures,
  listing,
  piecesOf,
  whyNotGiven,
  type ExtractJob,
  type RecordsWanted,
  type Taken,
} from './taking.js';

/** One narrow set as an open file: new, or added to the one that is there. */
export async function takeRecords(job: ExtractJob, what: RecordsWanted): Promise<Taken> {
  const failures = new Failures();
  const dataClass: DataClass =
    what.set === 'messages' || what.set === 'calls' ? what.set : 'applications';
  const path = join(job.folder, what.fileName);
  // Looked at first: an hour at the cable would be for nothing where it cannot be added to.
  const before = what.append ? await fileSoFar(path) : null;
  mustTakeMore(what.format, before);
  const listed = await listing(job, dataClass);
  const wanted = listed.filter((entry) => isOfSet(what.set, entry));
  await job.progress.phase('taking', amountOf(wanted));
  const found: Omit<ExtractRecord, 'key'>[] = [];
  const threads = new Map<string, Thread>();
  for (const entry of wanted) {
    const contents = await contentsOf(job, entry, failures);
    if (contents === null) continue;
    try {
      const told = parseRecords(entry.format ?? '', contents, entry.path);
      if (told.kind === 'threads') for (const one of told.threads) threads.set(one.name, one);
      else found.push(...extractOf(told));
    } catch {
      failures.add(dataClass, 'it is not what its kind should be');
    }
  }
  const zone = what.clock === 'utc' ? 'UTC' : Intl.DateTimeFormat().resolvedOptions().timeZone;
  const isWanted = daysWanted(what, zone);
  const records = keyed(found.filter(({ at }) => isWanted(at.getTime())));
  const media = `${what.fileName}-media`;
  // What came with it first: a file that names it is only there once it is.
  const places = what.media
    ? await takeMedia(job, records, withoutVideos(listed, what.videos), media, failures)
    : new Map<string, string>();
  const style: ExtractStyle = {
    ...{ dates: what.dates, threads, places, isList: what.set === 'calls' },
    zone,
    names: what.named ? await contactNames(job) : new Map<string, string>(),
    title: extractSetName(what.set),
  };
  const written = writeExtract(what.format, records, style, before);
  await job.progress.phase('writing', { bytes: 0, items: 0 });
  await writeOpenFile(path, [written.file]);
  return {
    items: records.length,
    bytes: Buffer.byteLength(written.file),
    added: written.added,
    failed: failures.all(),
    wrote: what.fileName,
  };
}

/** @throws Failure `already-exists` where the file that is there is none that can be added to */
function mustTakeMore(format: ExtractFormat, before: string | null): void {
  try {
    writeExtract(format, [], plainStyle, before);
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
}

/** Null when the device does not give it out; that is counted. */
async function contentsOf(
  job: ExtractJob,
  entry: Entry,
  failures: Failures,
): Promise<Uint8Array | null> {
  try {
    return await inOne(piecesOf(job, entry));
  } catch (error) {
    const reason = whyNotGiven(error);
    if (reason === null) throw error;
    failures.add(entry.class, reason);
    return null;
  }
}

async function contactNames(job: ExtractJob): Promise<Map<string, string>> {
  const names = new Map<string, string>();
  for (const entry of await listing(job, 'contacts')) {
    if (kindOf(entry.format) !== 'contacts') continue;
    const contents = await contentsOf(job, entry, new Failures());
    if (contents === null) continue;
    try {
      const cards = parseRecords(entry.format ?? '', contents, entry.path);
      for (const [number, name] of namesIn(cards)) names.set(number, name);
    } catch {
      // A card that cannot be read names nobody; its numbers stand as they are.
    }
  }
  return names;
}

const withoutVideos = (listed: readonly Entry[], areWanted: boolean): readonly Entry[] =>
  areWanted ? listed : listed.filter(({ format }) => !format?.startsWith('video/'));

/** @returns where each thing that is there now lies from the file, by its path on the device */
async function takeMedia(
  job: ExtractJob,
  records: readonly ExtractRecord[],
  listed: readonly Entry[],
  name: string,
  failures: Failures,
): Promise<Map<string, string>> {
  const folder = join(job.folder, name);
  const places = new Map(records.map((r) => [r.attachment, mediaPath(r)]));
  const taken = new Map<string, string>();
  for (const entry of listed) {
    const place = places.get(entry.path);
    if (!place) continue;
    try {
      // What an earlier run put there is not read over the cable again.
      if (!(await isThere(join(folder, place), entry.bytes))) {
        await mkdirInside(job.folder, dirname(join(folder, place)));
        await writeOpenFile(join(folder, place), piecesOf(job, entry));
      }
      taken.set(entry.path, `${name}/${place}`);
    } catch (error) {
      const reason = whyNotGiven(error);
      if (reason === null) throw error;
      failures.add(entry.class, reason);
    }
  }
  return taken;
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
