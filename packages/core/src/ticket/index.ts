export * from './agreement.js';
export * from './run-sheet.js';
export * from './sheet.js';
export * from './visit.js';
