export * from './estimate.js';
export * from './progress.js';
