/** Who did what: read, checked, taken out. */
export { headOf } from './check.js';
