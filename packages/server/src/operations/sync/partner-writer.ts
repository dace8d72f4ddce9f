import { randomUUID } from 'node:crypto';
import { problemOf } from '@bright-cellar/core';
import type { Job } from '../../engine/job.js';
import { newBookFile } from '@bright-cellar/core/merge';
import type { Partner, PartnerCollection } from '../../partners/index.js';
import type { KindInStep } from './held-syncs.js';
import { partnerFile } from './read-sides.js';
import { foundAfter, stepsByFile, type FileSteps } from './steps.js';
import { digestOf, recordAfter, type RecordOf, type Telling, type Written } from './writing.js';

const addedIn = ({ lines }: FileSteps): RecordOf[] =>
  lines.flatMap(({ step }) => (step.do === 'add' ? [step.record] : []));

/** Writes one kind onto the customer's server, file by file, each as far as it is as it was read; and reads each back. */
export async function writePartner(
  job: Job<'sync'>,
  { kind, partner: book, lines }: KindInStep,
  partner: Partner,
  into: PartnerCollection,
  telling: Telling,
): Promise<Written> {
  const written: Written = new Map();
  for (const steps of stepsByFile('partner', book, lines)) {
    job.signal.throwIfAborted();
    const { file } = steps;
    try {
      let id = file?.id ?? null;
      if (!file) id = await createdOn(partner, into, steps);
      else {
        const contents = book.patched(
          file,
          steps.lines.map(({ step }) => step),
        );
        if (contents === null) await partner.remove(file);
        else await partner.replace(file, contents);
      }
      const now = id === null ? null : await partner.resource(into, id);
      if (id !== null)
        telling.touched({ side: 'partner', kind, id, after: now && digestOf(now.contents) });
      for (const { line } of steps.lines) {
        if (!line) continue;
        const meant = recordAfter(line, 'partner');
        if (meant === null) written.set(line.key, null);
        else {
          const found = now && foundAfter(kind, book, partnerFile(kind, now), meant);
          if (found) written.set(line.key, found);
          else telling.failed(kind, 'it is not there as it was sent', 1);
        }
        job.progress.add(0, 1);
      }
    } catch (error) {
      if (problemOf(error).code !== 'changed-meanwhile') throw error;
      telling.failed(kind, 'the customer’s server had it changed meanwhile', steps.lines.length);
    }
  }
  return written;
}

async function createdOn(
  partner: Partner,
  into: PartnerCollection,
  steps: FileSteps,
): Promise<string> {
  const name = randomUUID();
  // Who had no mark of its own gets one: the server wants it.
  return partner.create(into, name, newBookFile(into.kind, addedIn(steps), name));
}
