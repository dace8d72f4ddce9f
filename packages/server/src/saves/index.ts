/** The catalogue itself, saved onto the racks and brought back from there. */
export { makeSave, recoveryOf, Saves } from './saves.js';
