export * from './forecast.js';
export * from './good-for.js';
export * from './health.js';
export * from './kinds.js';
export * from './room.js';
export * from './site.js';
