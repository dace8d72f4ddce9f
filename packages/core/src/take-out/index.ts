/** What is taken out of a backup, written in open formats. Apart from the rest: it brings writers along that no screen needs. */
export * from './choices.js';
export { isVideoName } from '../extract/markup.js';
export { titleOfConversation, writeConversation, type ToldConversation } from './conversations.js';
export {
  alarmsFile,
  bookmarksFile,
  callsFile,
  clockOf,
  contactsFile,
  healthFile,
  homeScreenFile,
  notesPage,
  visitsFile,
} from './lists.js';
