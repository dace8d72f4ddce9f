import { createHash } from 'node:crypto';
import { join } from 'node:path';
import type { Entry } from '@bright-cellar/device-link';
import { zipStream } from '../../kernel/zip-stream.js';
import { writeOpenFile } from '../../kernel/open-file.js';
import {
  amountOf,
  Failures,
  listing,
  piecesOf,
  whyNotGiven,
  type ApplicationsWanted,
  type ExtractJob,
  type Taken,
} from './taking.js';

/** Each application with its data as a package: docs/application-package.md. */
export async function takeApplications(job: ExtractJob, what: ApplicationsWanted): Promise<Taken> {
  const failures = new Failures();
  const listed = await listing(job, 'applications');
  const chosen = what.applications.map((application) => ({
    ...application,
    entries: listed.filter((e) => e.group === application.id && e.kind === 'file'),
  }));
  await job.progress.phase('taking', amountOf(chosen.flatMap((c) => c.entries)));
  const names: string[] = [];
  let bytes = 0;
  for (const { id, name, version, entries } of chosen) {
    if (entries.length === 0) continue;
    const file = `${id}.application.zip`;
    const head = {
      ...{ format: 'application-package', version: 1, id, name },
      ...{ applicationVersion: version, device: what.device },
    };
    try {
      await writeOpenFile(join(job.folder, file), packageOf(job, head, entries));
    } catch (error) {
      // An application with half of its data is none: all of it or nothing.
      const reason = whyNotGiven(error);
      if (reason === null) throw error;
      failures.add('applications', reason);
      continue;
    }
    names.push(file);
    bytes += amountOf(entries).bytes;
  }
  const items = names.length;
  return { items, bytes, added: items, failed: failures.all(), wrote: names.join(', ') };
}

/** One package as it is read from the device; no item is held whole. @throws LinkError */
function packageOf(
  job: ExtractJob,
  head: object,
  entries: readonly Entry[],
): AsyncGenerator<Uint8Array> {
  const files: { path: string; bytes: number; sha512: string; modified: string }[] = [];
  return zipStream((put) => {
    for (const entry of entries) {
      const path = entry.path.split('/').slice(2).join('/');
      const { modified } = entry;
      put(`data/${path}`, { mtime: new Date(modified) }, () =>
        hashed(piecesOf(job, entry), (bytes, sha512) =>
          files.push({ path, bytes, sha512, modified }),
        ),
      );
    }
    // Asked for last, when every file before it has been read.
    put('manifest.json', {}, async function* () {
      yield Buffer.from(`${JSON.stringify({ ...head, files }, null, 2)}\n`);
    });
  });
}

async function* hashed(
  pieces: AsyncIterable<Uint8Array>,
  ended: (bytes: number, sha512: string) => void,
): AsyncGenerator<Uint8Array> {
  const hash = createHash('sha512');
  let bytes = 0;
  for await (const piece of pieces) {
    hash.update(piece);
    bytes += piece.length;
    yield piece;
  }
  ended(bytes, hash.digest('hex'));
}
