import { startBackup } from './backup/start.js';
import { startBringApplications } from './bring-applications/start.js';
import { startBringBack } from './bring-back/start.js';
import { startBringIn } from './bring-in/start.js';
import { startCheck } from './check/start.js';
import { startCopy } from './copy/start.js';
import { startCross, startForesee } from './cross/start.js';
import { startDispose } from './dispose/start.js';
import { startErase } from './erase/start.js';
import { startExport } from './export/start.js';
import { startExtract } from './extract/start.js';
import { startImport } from './import/start.js';
import { startMove } from './move/start.js';
import { startProof } from './prove/start.js';
import { startPrune } from './prune/start.js';
import { startRepair } from './repair/start.js';
import { startRestore } from './restore/start.js';
import { startSync } from './sync/start.js';
import type { Starts } from './start.js';

/** Who starts which kind of work, in the server. One line adds one. */
export const starts: Starts = {
  backup: startBackup,
  bringIn: startBringIn,
  prove: startProof,
  restore: startRestore,
  foresee: startForesee,
  cross: startCross,
  bringBack: startBringBack,
  bringApplications: startBringApplications,
  erase: startErase,
  export: startExport,
  import: startImport,
  extract: startExtract,
  copy: startCopy,
  check: startCheck,
  repair: startRepair,
  move: startMove,
  dispose: startDispose,
  prune: startPrune,
  sync: startSync,
};
