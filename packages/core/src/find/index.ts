export * from './ask.js';
export { takenWhen, type Days } from './when.js';
