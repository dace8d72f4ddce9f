/** What is in a backup, as people read it: put together from the records of many files. */
export {
  Conversations,
  monthsOf,
  Searching,
  type Conversation,
  type Hit,
  type Month,
  type Said,
} from './conversations.js';
export { People } from './people.js';
export { digitsOf, folded, numberEnd } from './fold.js';
export type { Call } from '../records/call.js';
export type { Contact } from '../records/contact.js';
