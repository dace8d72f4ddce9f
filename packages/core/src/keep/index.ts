export * from './due.js';
export * from './rules.js';
export * from './prune.js';
