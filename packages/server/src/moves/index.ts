/** Move plans: what lies where, and the moves of a plan that is carried out. */
export { isOpen, stepsOf, type StepRow } from './steps.js';
export { copyOn, lyingOf, ratesOf } from './stock.js';
