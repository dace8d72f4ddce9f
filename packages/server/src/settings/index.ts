/** What the shop decided once for everybody. */
export { readSettings, saveSettings } from './settings.js';
