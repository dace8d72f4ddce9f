import type { OperationKind } from '@bright-cellar/core';
import { EndedBackup } from './backup.js';
import { EndedBringApplications } from './bring-applications.js';
import { EndedBringBack } from './bring-back.js';
import { EndedBringIn } from './bring-in.js';
import { EndedCheck } from './check.js';
import { EndedCopy } from './copy.js';
import type { EndedPanel } from './ended.js';
import { EndedCrossing, EndedForesight } from './cross.js';
import { EndedDisposal } from './dispose.js';
import { EndedErase } from './erase.js';
import { EndedExport } from './export.js';
import { EndedExtract } from './extract.js';
import { EndedImport } from './import.js';
import { EndedMove } from './move.js';
import { EndedProof } from './prove.js';
import { EndedPruning } from './prune.js';
import { EndedRepair } from './repair.js';
import { EndedRestore } from './restore.js';
import { EndedSync } from './sync.js';

/** How each kind of work shows its end: one of each, or it does not compile. */
export const endedPanels: { [Kind in OperationKind]: EndedPanel<Kind> } = {
  backup: EndedBackup,
  bringIn: EndedBringIn,
  prove: EndedProof,
  restore: EndedRestore,
  foresee: EndedForesight,
  cross: EndedCrossing,
  bringBack: EndedBringBack,
  bringApplications: EndedBringApplications,
  erase: EndedErase,
  export: EndedExport,
  import: EndedImport,
  extract: EndedExtract,
  copy: EndedCopy,
  check: EndedCheck,
  repair: EndedRepair,
  move: EndedMove,
  dispose: EndedDisposal,
  prune: EndedPruning,
  sync: EndedSync,
};
