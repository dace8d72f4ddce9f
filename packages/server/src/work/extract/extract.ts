import { diskFailure, mkdirInside, mustBeRack } from '@bright-cellar/archive';
import { countOf } from '@bright-cellar/core';
import type { Ending } from '../job.js';
import { linkFailure } from '../link-failures.js';
import { takeApplications } from './applications.js';
import { takeRecords } from './records.js';
import type { ExtractJob } from './taking.js';

/** Takes one narrow set out of a device into an open file, or single applications into packages. */
export async function extractFromDevice(job: ExtractJob): Promise<Ending> {
  const began = Date.now();
  const { what, folder, rack } = job.input;
  try {
    // Whatever is mounted there now: the folder of a drive that left is on the system's own disk.
    mustBeRack(rack.path, rack.id);
    await mkdirInside(rack.path, folder).catch((error: unknown) => {
      throw diskFailure(error);
    });
    const done = await (what.kind === 'records'
      ? takeRecords(job, what)
      : takeApplications(job, what));
    const failed = done.failed.reduce((sum, f) => sum + f.count, 0);
    return {
      what: `Taken out: ${countOf(done.items, what.kind === 'records' ? 'record' : 'application')}, ${failed} failed.`,
      result: {
        items: done.items,
        bytes: done.bytes,
        failed: done.failed,
        wrote: done.wrote,
        storedBytes: null,
        newItems: done.added,
        newBytes: null,
        durationMs: Date.now() - began,
        workedMs: null,
        digest: null,
        compared: null,
      },
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
