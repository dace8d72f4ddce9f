import { join } from 'node:path';
import { exportPackage, OpenArchive, withPassword, writeStick } from '@bright-cellar/archive';
import { countOf, formatBytes } from '@bright-cellar/core';
import { copyFiles } from '../../archives/index.js';
import type { Ending, Job, Run } from '../../engine/job.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { STICK_PAGE_BUILT } from '../../kernel/stick-page.js';
import { folderOf, PACKAGES, rackHere } from '../../racks/index.js';

/** Writes a backup as one file that opens without this program, or as a stick that opens itself, under the archive’s password. */
async function exportBackup(job: Job<'export'>): Promise<Ending<'export'>> {
  const { input, progress, signal, password, threads } = job;
  const elapsed = stopwatch();
  await progress.phase('opening', { bytes: 0, items: 0 });
  const files = await copyFiles(job.db, input.copyId);
  const archive = await OpenArchive.open(files, withPassword(password.use()), {
    lease: 'shared',
    threads,
  });
  try {
    await progress.phase('exporting', input.expected);
    const common = {
      ...{ archive, backup: job.backupId, signal },
      to: join(folderOf(await rackHere(job.db, input.to.rackId)), PACKAGES, input.to.name),
      onProgress: (count: number, done: number) => progress.add(count, done),
    };
    const { items, bytes, written } =
      input.form === 'file'
        ? await asFile(common, password.use())
        : await asStick(common, password.use(), job);
    return {
      what: `${input.form === 'file' ? 'Package' : 'Stick'} written: ${countOf(items, 'item')}, ${formatBytes(written)}.`,
      result: {
        ...{ items, bytes, failed: [], durationMs: elapsed() },
        ...{ packageBytes: written, wrote: input.to.name, form: input.form },
      },
    };
  } finally {
    await archive.close();
  }
}

type Common = Pick<
  Parameters<typeof writeStick>[0],
  'archive' | 'backup' | 'to' | 'signal' | 'onProgress'
>;

async function asFile(common: Common, password: string) {
  const { items, bytes, packageBytes } = await exportPackage({
    ...common,
    recipient: { password },
  });
  return { items, bytes, written: packageBytes };
}

async function asStick(
  common: Common,
  password: string,
  { progress, threads, input }: Job<'export'>,
) {
  const { items, bytes, stickBytes } = await writeStick({
    ...common,
    ...{ password, threads, page: STICK_PAGE_BUILT },
    onPhase: (phase, total) =>
      void progress.phase(
        phase,
        phase === 'exporting' ? input.expected : { bytes: total, items: 0 },
      ),
  });
  return { items, bytes, written: stickBytes };
}

export const exportRun: Run<'export'> = { run: exportBackup };
