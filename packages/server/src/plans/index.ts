/** Deciding what is taken: listings, estimates, and what was decided before. */
export { roomOn, Planning } from './planning.js';
export { keepPlan } from './plans.js';
