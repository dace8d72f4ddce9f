export * from './days.js';
export * from './format.js';
export * from './problem.js';
export * from './readable-name.js';
export * from './units.js';
export * from './values.js';
