import type { Ending, Job, Run } from '../../engine/job.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { openCopy } from '../open-copy.js';
import { backupAmount } from './amount.js';
import { Crossing, sizeOf } from './crossing.js';
import { gatherExamples } from './examples.js';
import { selectionToForesee } from './picks.js';

/** Everything but the sending: what was chosen is read and converted, and what becomes of it is counted. */
async function foreseeCrossing(job: Job<'foresee'>): Promise<Ending<'foresee'>> {
  const { progress } = job;
  const elapsed = stopwatch();
  const archive = await openCopy(job, job.input.copyId);
  try {
    const { selection, inStores } = await selectionToForesee(job);
    const crossing = await Crossing.open(job, archive, selection, (bytes) =>
      progress.add(bytes, 1),
    );
    crossing.staysInStores(inStores);
    await progress.phase('converting', await backupAmount(job));
    const gather = gatherExamples(job.operationId);
    let bytes = 0;
    let items = 0;
    for await (const piece of crossing.pieces()) {
      crossing.count(piece, sizeOf(piece));
      gather(piece);
      bytes += sizeOf(piece);
      items += 1;
    }
    const report = crossing.tally.report();
    return {
      what: `Loss report: ${items} files would go over.`,
      result: {
        ...{ items, bytes, failed: [], durationMs: elapsed(), report },
        sparable: crossing.sparable,
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before the loss report was done.',
      safe: 'Nothing was written.',
      next: 'Connect the device, and ask for the loss report again.',
    });
  } finally {
    await archive.close();
  }
}

export const foreseeRun: Run<'foresee'> = { run: foreseeCrossing };
