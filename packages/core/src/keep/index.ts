export * from './due.js';
export * from './rules.js';
