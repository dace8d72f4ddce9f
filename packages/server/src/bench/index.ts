/** The bench: devices as they are now, what is remembered of them, and whether they are ready. */
export { adapterNow } from './adapter.js';
export { mustBeFree, mustBeReady } from './ready.js';
export { turnLinkOrder } from './orders.js';
export { rememberDevice, rememberTyped } from './remember.js';
export { benchView } from './view.js';
export { BenchWatch } from './watch.js';
