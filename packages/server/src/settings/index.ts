/** What the shop decided once for everybody. */
export { shopOnPaper } from './logo.js';
export {
  begin,
  drivePlaces,
  noteRestored,
  readSettings,
  restoredFrom,
  whoDecided,
} from './settings.js';
