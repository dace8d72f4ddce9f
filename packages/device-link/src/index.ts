export * from './protocol.js';
export { readAhead } from './read-ahead.js';
export { DeviceLink, type LinkOptions } from './client.js';
