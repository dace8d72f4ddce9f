import type { Runs } from '../engine/job.js';
import { backupRun } from './backup/run.js';
import { bringApplicationsRun } from './bring-applications/run.js';
import { bringBackRun } from './bring-back/run.js';
import { bringInRun } from './bring-in/run.js';
import { checkRun } from './check/run.js';
import { copyRun } from './copy/run.js';
import { crossRun } from './cross/run.js';
import { disposeRun } from './dispose/run.js';
import { eraseRun } from './erase/run.js';
import { exportRun } from './export/run.js';
import { extractRun } from './extract/run.js';
import { foreseeRun } from './cross/foresee.js';
import { importRun } from './import/run.js';
import { moveRun } from './move/run.js';
import { proveRun } from './prove/run.js';
import { pruneRun } from './prune/run.js';
import { repairRun } from './repair/run.js';
import { restoreRun } from './restore/run.js';
import { syncRun } from './sync/run.js';

/** Who does which kind of work, in the work process. One line adds one. */
export const runs: Runs = {
  backup: backupRun,
  bringIn: bringInRun,
  prove: proveRun,
  restore: restoreRun,
  foresee: foreseeRun,
  cross: crossRun,
  bringBack: bringBackRun,
  bringApplications: bringApplicationsRun,
  erase: eraseRun,
  export: exportRun,
  import: importRun,
  extract: extractRun,
  copy: copyRun,
  check: checkRun,
  repair: repairRun,
  move: moveRun,
  dispose: disposeRun,
  prune: pruneRun,
  sync: syncRun,
};
