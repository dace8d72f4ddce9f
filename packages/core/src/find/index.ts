export * from './ask.js';
export { nearestWords } from './nearest.js';
export { takenWhen, type Days } from './when.js';
