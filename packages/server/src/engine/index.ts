/** The engine of long operations: rows with locks, leases and deadlines; starting, stopping, doing, recovering. */
export { continueOperation, pauseOperation, startOperation, stopOperation } from './commands.js';
export { isHeld } from './locks.js';
export { activeOperations, operationById, operationRow, operationsWhere } from './views.js';
export { inputOf, resultOf, type RowOf } from './rows.js';
export { tellOf } from './tell.js';
