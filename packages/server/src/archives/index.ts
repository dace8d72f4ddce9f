/** Archives as the catalogue knows them: what is in them, where they lie, what is proven, who opens them. */
export { archiveName } from './archive-names.js';
export {
  archiveById,
  archiveForWork,
  backupForWork,
  backupsOf,
  copiesOf,
  copyById,
  copyToChange,
  knownDevice,
  presentArchiveOf,
  presentCopies,
  presentCopy,
  workOn,
} from './archives.js';
export { findArchives } from './list.js';
export { knownOfBackups } from './proofs.js';
export { archivesOfTicket, makeMissingRows, refreshArchiveRow } from './rows.js';
export {
  amountsOf,
  recordArchive,
  recordBackup,
  recordCopy,
  recordGone,
  recordLeaving,
  unlooked,
  recordGrowth,
  recordPruning,
} from './catalogue.js';
export { copyFiles } from './copy-changes.js';
export { deviceItems } from './device-items.js';
export {
  compareOrder,
  discardOrder,
  newEscrowOrder,
  openByEscrowOrder,
  placeSchema,
  weighPruningOrder,
  withdrawEscrowOrder,
} from './orders.js';
export { mustOpen } from './passwords.js';
export { provenFor } from './proven.js';
