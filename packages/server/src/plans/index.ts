/** Deciding what is taken: listings, estimates, and what was decided before. */
export { roomOn, Planning, type Scope } from './planning.js';
export { keepPlan, plansFor } from './plans.js';
