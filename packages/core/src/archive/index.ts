export * from './committed.js';
export * from './cutting.js';
export * from './name-pattern.js';
export * from './proof-level.js';
export * from './sampling.js';
export * from './zstd-frame.js';
