/** What the shop decided once for everybody. */
export { shopOnPaper } from './logo.js';
export {
  begin,
  drivePlaces,
  noteRestored,
  readDecided,
  readSettings,
  restoredFrom,
  settingsIn,
  type Decided,
  whoDecided,
} from './settings.js';
