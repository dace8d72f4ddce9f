export * from './choice.js';
export * from './coverage.js';
export * from './failed-items.js';
export * from './fit.js';
export * from './leave-out.js';
export * from './restorable.js';
export * from './schedule.js';
