export * from './due.js';
export * from './rules.js';
export * from './prune.js';
export * from './saves.js';
