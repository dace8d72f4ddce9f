/** Looking into backups: consented, unlocked, bounded, on record. What is read is in the memory of the work process only. */
export { LookIns } from './look-ins.js';
export { lookInOrders, lookInStreams } from './order-handlers.js';
