/** What customers agreed to, or took back. */
export { agreedOf, agreementsOf } from './agreements.js';
