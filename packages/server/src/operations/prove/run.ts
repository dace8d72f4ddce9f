import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { proveCopy } from './prove-copy.js';

async function proveBackup(job: Job<'prove'>): Promise<Ending<'prove'>> {
  const { input, progress } = job;
  const { copyId, level } = input;
  const elapsed = stopwatch();
  await progress.phase('opening', { bytes: 0, items: 0 });
  const { own, report, record } = await proveCopy(
    job,
    { copyId, backupId: job.backupId, level },
    {
      onPhase: (phase, bytes) =>
        void progress.phase(phase, {
          bytes,
          items: phase === 'reading' ? input.expected.items : 0,
        }),
      onProgress: (bytes, items) => progress.add(bytes, items),
    },
  );
  return {
    what: `${report.level === 'full' ? 'Backup proven' : 'Archive looked at'}: ${own.what}`,
    result: {
      items: own.items,
      bytes: own.bytes,
      failed: [],
      storedBytes: report.storedBytes,
      durationMs: elapsed(),
      digest: report.manifestDigest,
    },
    record,
  };
}

export const proveRun: Run<'prove'> = { run: proveBackup };
