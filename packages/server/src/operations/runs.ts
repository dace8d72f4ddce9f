import type { Runs } from '../engine/job.js';

/**
 * Who does which kind of work, in the work process. One line adds one. What it needs is loaded when the first of its kind
 * comes: parsers of all sorts of files take longer to load than all else.
 */
export const runs: Runs = {
  backup: async () => (await import('./backup/run.js')).backupRun,
  bringIn: async () => (await import('./bring-in/run.js')).bringInRun,
  prove: async () => (await import('./prove/run.js')).proveRun,
  restore: async () => (await import('./restore/run.js')).restoreRun,
  foresee: async () => (await import('./cross/foresee.js')).foreseeRun,
  cross: async () => (await import('./cross/run.js')).crossRun,
  bringBack: async () => (await import('./bring-back/run.js')).bringBackRun,
  bringApplications: async () => (await import('./bring-applications/run.js')).bringApplicationsRun,
  erase: async () => (await import('./erase/run.js')).eraseRun,
  export: async () => (await import('./export/run.js')).exportRun,
  import: async () => (await import('./import/run.js')).importRun,
  extract: async () => (await import('./extract/run.js')).extractRun,
  copy: async () => (await import('./copy/run.js')).copyRun,
  check: async () => (await import('./check/run.js')).checkRun,
  repair: async () => (await import('./repair/run.js')).repairRun,
  move: async () => (await import('./move/run.js')).moveRun,
  dispose: async () => (await import('./dispose/run.js')).disposeRun,
  prune: async () => (await import('./prune/run.js')).pruneRun,
  sync: async () => (await import('./sync/run.js')).syncRun,
};
