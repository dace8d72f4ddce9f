/** The command bar’s search. */
export { find } from './find.js';
