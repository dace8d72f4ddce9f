export * from './protocol.js';
export { DeviceLink, type LinkOptions } from './client.js';
