/** How what is kept is looked after: copies that are owed, checks that are due. */
export { Care } from './care.js';
export { countOwed } from './owed.js';
