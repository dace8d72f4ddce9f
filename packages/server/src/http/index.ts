/** How routes of the contract are answered: sessions, permissions, parsing, events. */
export { allowed, answering, InputFailure, type Answer } from './answer.js';
export { keptNowhere } from './kept-nowhere.js';
export { Live } from './live.js';
export {
  addressOf,
  beginSession,
  currentSession,
  endSession,
  goodSessions,
  isTrusted,
  readSession,
  type SignedIn,
} from './session.js';
export { deskSiteRoutes, siteRoutes } from './site.js';
