/** What the shop decided once for everybody. */
export { readSettings, whoDecided } from './settings.js';
