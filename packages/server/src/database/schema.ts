/**
 * The catalogue. It knows where things are and what was done; it knows no password, no key, and no
 * name or content of any customer's file.
 */
export type { Versioned } from './columns.js';
export * from './schema/people.js';
export * from './schema/shop.js';
export * from './schema/tickets.js';
export * from './schema/racks.js';
export * from './schema/archives.js';
export * from './schema/trust.js';
export * from './schema/keeping.js';
export * from './schema/work.js';
export * from './schema/record.js';
export * from './schema/organiser.js';
