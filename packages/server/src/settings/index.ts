/** What the shop decided once for everybody. */
export { readSettings, saveShop, whoDecided } from './settings.js';
