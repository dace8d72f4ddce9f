import { DeviceLink } from '@bright-cellar/device-link';
import { readConfig } from '../config.js';
import { connect, untilDatabaseAnswers } from '../database/connect.js';
import { describeError, makeLog } from '../log.js';
import { sayAlive } from '../alive.js';
import { OrderServer } from './order-server.js';
import { Runner } from './runner.js';

/** The work process: does backups, proofs and restores, and goes on while the server restarts. */
const UNORDERED_MS = 30_000;
const config = readConfig(process.env);
const log = makeLog('work', config.logLevel);
const connection = connect(config.databaseUrl);
const orders: OrderServer = new OrderServer(() => runner);
const runner = new Runner(
  connection.db,
  new DeviceLink(config.link),
  log,
  (id) => orders.changed(id),
  config.waitForDeviceMs,
);

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await runner.close();
  await orders.close();
  await connection.close();
  process.exit(0);
}
process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
// Whoever started this process is gone: so is the reason to run.
process.on('disconnect', () => void stop());

// From the start: what was cut off may take longer to settle than anybody waits for a sign of life.
sayAlive();
try {
  await orders.listen(config.workSocket);
  await untilDatabaseAnswers(connection.db, log);
  await runner.recover(0);
  setInterval(() => {
    runner
      .recover(UNORDERED_MS)
      .catch((error: unknown) => log.warn({ error: describeError(error) }, 'could not recover'));
  }, UNORDERED_MS).unref();
  log.info('work process is ready');
  process.send?.({ ready: true });
} catch (error) {
  log.fatal({ error: describeError(error) }, 'work process could not start');
  process.exit(1);
}
