export { collectAll } from './tools/collect.js';
export { diskFailure, syncFolder } from './disk/durable.js';
export { openPlain } from './disk/hostile.js';
export { archiveIn, ArchiveFiles } from './store/archive-files.js';
export { markRack, mustBeRack, rackRoom } from './store/identity.js';
export { forgetStore, openStore, storeAddressSchema, type StoreAddress } from './store/kinds.js';
export { hostKeyOf } from './store/sftp/connection.js';
export { tryStore, type TriedStore } from './store/try-store.js';
export type { Room, Store } from './store/store.js';
export { checkCopy, type ExpectedCopy } from './verify/copy-check.js';
export type {
  BackupHeader,
  BackupEnd,
  FailedItem,
  ItemRecord,
  NewItem,
} from './format/backup-lines.js';
export { compareWithArchive, type Compared } from './pack/compare.js';
export { measureFolder } from './pack/walk.js';
export { packedSize } from './pack/packed-size.js';
export { addFolder, packFolder, type PackFolderOptions } from './pack/pack-folder.js';
export { BackupRun, type BackupOptions } from './pack/backup-run.js';
export { OpenArchive, type Listed } from './open/open-archive.js';
export { backupIds, type BackupSummary } from './open/backup-list.js';
export { readPayload, readArchiveId } from './open/archive-contents.js';
export { archivesBelow, lookAtArchive, type FoundArchive } from './open/found-archives.js';
export { unpackBackup, type UnpackResult } from './unpack/unpack.js';
export { verifyOpen, verifySealed, type VerifyReport } from './verify/verify.js';
export { readProofs, recordProof, type ProofRecord } from './verify/proofs.js';
export { pruneArchive, weighPruning } from './care/prune.js';
export { changePassword, removeEscrow, setEscrow, withdrawEscrow } from './care/holders.js';
export { rekeyArchive } from './care/rekey.js';
export { destroyCopy, removeCopy } from './care/remove-copy.js';
export { repairFrom } from './care/repair.js';
export { reindexArchive } from './care/reindex.js';
export { copyArchive, copyBegun, type Copied } from './care/copy.js';
export { threadsFor } from './tools/threads-for.js';
export { importBag } from './care/import-bag.js';
export { exportPackage } from './package/export.js';
export { importPackage } from './package/import.js';
export { STICK_PAGE, writeStick } from './package/stick.js';
export { unfinishedRun, type Unfinished } from './commit/pending.js';
export { discardRun, recoverArchive, trySecret } from './care/recover.js';
export { withPassword, type Secret } from './keys/holders.js';
export { newRecoveryKey, sealAge } from './package/age-stream.js';
export { openAge } from './package/age-payload.js';
export { piecesOf, readWhole } from './store/read.js';
export { newEscrow, openEscrow, type Escrow, type TwoPhrases } from './keys/escrow.js';

export { mkdirInside } from './disk/medium.js';
