/** What the shop decided once for everybody. */
export { readSettings } from './settings.js';
