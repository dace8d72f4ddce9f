/** What the shop decided once for everybody. */
export { noteRestored, readSettings, restoredFrom, saveShop, whoDecided } from './settings.js';
