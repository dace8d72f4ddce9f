export { Berths } from './berths.js';
export { entryAt, indexFolder, type FolderIndex } from './folder-index.js';
export {
  addEntry,
  install,
  isEmptyFolder,
  removeEntry,
  replaceEntry,
  safeParts,
  writeEntry,
} from './folder-writer.js';
export { hasToken } from './has-token.js';
export type { DeviceNews, LinkDevice } from './link-device.js';
export { linkRoutes } from './link-routes.js';
export { Mounts } from './mounts.js';
export { Received } from './received.js';
export { served } from './served.js';
