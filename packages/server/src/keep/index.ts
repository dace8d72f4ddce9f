/** How long archives are kept; those that were destroyed. */
export { keepingOf } from './keeping.js';
export { owedHere, owedOf, recordDecision, recordEnd, type OwedEnd } from './disposals.js';
