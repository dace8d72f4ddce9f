export * from './adapter-site.js';
export * from './bench-rules.js';
export * from './condition.js';
export * from './copy-speed.js';
export * from './network.js';
export * from './partner.js';
export * from './shop.js';
export * from './update-policy.js';
