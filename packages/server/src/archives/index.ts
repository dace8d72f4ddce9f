/** Archives as the catalogue knows them: what is in them, where they lie, what is proven, who opens them. */
export { archiveName } from './archive-names.js';
export {
  archiveById,
  backupForWork,
  backupsOf,
  copiesOf,
  foundDamaged,
  isThere,
  knownDevice,
  listArchives,
  presentArchiveOf,
  presentCopies,
  presentCopy,
  provenAt,
  type PresentCopy,
} from './archives.js';
export { amountsOf, recordArchive, recordBackup, recordGrowth } from './catalogue.js';
export { copyFolder } from './copy-changes.js';
export { deviceItems } from './device-items.js';
export {
  compareOrder,
  discardOrder,
  newEscrowOrder,
  openByEscrowOrder,
  withdrawEscrowOrder,
} from './orders.js';
export { changeArchivePassword, mustOpen } from './passwords.js';
export { provenFor } from './proven.js';
