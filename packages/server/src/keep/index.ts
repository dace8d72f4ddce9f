/** How long archives are kept; those that were destroyed. */
export { forgetByAge } from './forgetting.js';
export { firstDue, keepingOf } from './keeping.js';
export { owedHere, owedOf, recordDecision, recordEnd, type OwedEnd } from './disposals.js';
