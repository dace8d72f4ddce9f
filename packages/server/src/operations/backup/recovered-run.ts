import { access } from 'node:fs/promises';
import { addFolder, measureFolder, type BackupRun } from '@bright-cellar/archive';
import { Failure, type RackId } from '@bright-cellar/core';
import { join } from 'node:path';
import type { Job } from '../../engine/job.js';
import { folderOf, INCOMING, rackHere } from '../../racks/index.js';

/**
 * Takes what somebody recovered from a device out of the folder that it came in. The folder is only read.
 * @throws Failure `rack-not-here` when it is not there, or not there any more
 */
export async function takeRecovered(
  { db, progress, session, signal }: Job<'backup'>,
  run: BackupRun,
  from: { rackId: RackId; name: string },
): Promise<void> {
  const folder = join(folderOf(await rackHere(db, from.rackId)), INCOMING, from.name);
  await mustBeThere(folder);
  try {
    await progress.phase('taking', measureFolder(folder));
    await addFolder(run, folder, async () => {
      signal.throwIfAborted();
      await session.goOn();
      progress.add(0, 1);
    });
  } catch (error) {
    if (!signal.aborted) await mustBeThere(folder);
    throw error;
  }
  // A drive that was pulled in the middle must not pass for one whose files could not be read.
  await mustBeThere(folder);
}

async function mustBeThere(folder: string): Promise<void> {
  await access(folder).catch((error: unknown) => {
    throw new Failure(
      'rack-not-here',
      {
        what: 'The folder that was recovered is not there any more.',
        safe: 'It was only read. What was taken is kept on the rack.',
        next: 'Connect the rack that it lies on, and let the backup go on.',
      },
      { cause: error },
    );
  });
}
