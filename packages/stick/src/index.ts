export { sealedFolder, type Folder, type Readable } from './folder.js';
export type { StickItem } from './list.js';
export { SealedBackup } from './sealed-backup.js';
