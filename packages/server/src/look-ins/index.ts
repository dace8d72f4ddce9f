/** Looking into backups: consented, unlocked, bounded, on record. What is read is in the memory of the work process only. */
export { LookIns } from './look-ins.js';
export { lookInOrders } from './order-handlers.js';
