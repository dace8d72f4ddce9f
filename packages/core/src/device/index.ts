export * from './application-package.js';
export * from './classes.js';
export * from './device.js';
export * from './erase.js';
export * from './letters.js';
export * from './readiness.js';
export * from './settling.js';
export * from './takes.js';
