/** Move plans: what lies where, and the moves of a plan that is carried out. */
export { isOpen, stepsOf, type StepRow } from './steps.js';
export { copyOn, ratesOf, stockNow } from './stock.js';
