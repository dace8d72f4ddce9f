/** Every kind of long work, as the server starts it. */
export { beginBackup } from './backup/start.js';
export { startCheck } from './check/start.js';
export { startCopy } from './copy/start.js';
export { goOnDisposing } from './dispose/start.js';
export { OPEN_FILE_NOT_AGREED, startExtract } from './extract/start.js';
export { operationInFull } from './cut-short.js';
export { beginRegularSync, revisionOf } from './sync/start.js';
export { keepPartnerOrder } from './sync/orders.js';
