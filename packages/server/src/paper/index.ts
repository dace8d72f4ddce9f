/** What papers are drawn with. Loading it takes a third of a start: it is loaded when one is drawn. */
export * from './paper.js';
export * from './sheet.js';
export { conversationPages } from './conversation.js';
