export * from './owed.js';
export * from './rules.js';
