export { readConfig, type Config } from './config.js';
export { connect, migrateDatabase, type Connection, type Database } from './database/connect.js';
export { makeLog } from './log.js';
export { serve, type RunningServer } from './serve.js';
