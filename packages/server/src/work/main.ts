import { DeviceLink } from '@bright-cellar/device-link';
import { archiveOrders } from '../archives/order-handlers.js';
import { recoverCopyChanges } from '../archives/copy-changes.js';
import { adapterNow, turnLinkOrder } from '../bench/index.js';
import { readConfig } from '../config.js';
import { openInstallation } from '../kernel/installation.js';
import { connect, untilDatabaseAnswers } from '../database/connect.js';
import { handled } from '../engine/orders.js';
import { lookInOrders, LookIns, lookInStreams } from '../look-ins/index.js';
import { OrderServer } from '../engine/order-server.js';
import { Runner } from '../engine/runner.js';
import { theProgram } from '../kernel/actor.js';
import { sayAlive } from '../kernel/alive.js';
import { readSettings } from '../settings/index.js';
import { systemClock } from '../kernel/clock.js';
import { describeError, makeLog } from '../log.js';
import { runs } from '../operations/runs.js';
import { crossingOrders } from '../operations/cross/order-handlers.js';
import { heldFileOrders } from '../operations/bring-back/order-handlers.js';
import { syncOrders } from '../operations/sync/order-handlers.js';
import { planOrders } from '../plans/order-handlers.js';
import { projections } from '../projections.js';
import { rackOrders } from '../racks/order-handlers.js';

/** The work process: does long work, and goes on while the server restarts. */
const LOOK_EVERY_MS = 5_000;
const config = readConfig(process.env);
openInstallation(config.data);
const MINUTE_MS = 60_000;
const log = makeLog('work', config.logLevel);
const connection = connect(config.databaseUrl);
const link = new DeviceLink(config.link);
const acting = {
  db: connection.db,
  actor: theProgram,
  clock: systemClock,
  projections,
  committed: () => orders.tell({ operation: null }),
};
const lookIns = new LookIns(
  acting,
  log,
  async () =>
    config.lookInIdleMs ??
    Number((await readSettings(connection.db)).looking.idleMinutes) * MINUTE_MS,
);
const runner = new Runner({
  acting,
  link,
  log,
  runs,
  further: (operation) => orders.tell({ operation }),
  // Asked anew for each work: somebody may just have decided otherwise.
  waitForDeviceMs: async () =>
    config.waitForDeviceMs ??
    Number((await readSettings(connection.db)).bench.waitMinutes) * MINUTE_MS,
  inHand: (lookIn) => lookIns.inHand(lookIn),
});
const orders: OrderServer = new OrderServer(
  [
    ...runner.orders(),
    ...archiveOrders(acting, link),
    ...planOrders(link),
    ...heldFileOrders(link),
    ...crossingOrders(),
    ...syncOrders((asked, read) => lookIns.read(asked, read)),
    ...rackOrders(),
    ...lookInOrders(lookIns, link),
    handled(turnLinkOrder, async () => {
      await findLink();
      return {};
    }),
  ],
  lookInStreams(lookIns),
);
const findLink = async () => link.direct(await adapterNow(connection.db, config.link, log));

/** Puts right what was left behind. What cannot be put right now is tried again, and keeps nobody from other work. */
async function recover(): Promise<void> {
  for (const part of [() => recoverCopyChanges(acting), () => runner.recover()]) {
    await part().catch((error: unknown) =>
      log.error({ error: describeError(error) }, 'what was left behind could not be put right'),
    );
  }
}

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await lookIns.close();
  await runner.close();
  await orders.close();
  await connection.close();
  process.exit(0);
}
process.on('SIGTERM', () => void stop());
process.on('SIGINT', () => void stop());
// Whoever started this process is gone: so is the reason to run.
process.on('disconnect', () => void stop());

// From the start: what was cut off may take longer to put right than anybody waits for a sign of life.
sayAlive();
try {
  await orders.listen(config.workSocket);
  await untilDatabaseAnswers(connection.db, log);
  await findLink();
  await lookIns.recover();
  await recover();
  setInterval(() => void recover(), LOOK_EVERY_MS).unref();
  log.info('work process is ready');
  process.send?.({ ready: true });
} catch (error) {
  log.fatal({ error: describeError(error) }, 'work process could not start');
  process.exit(1);
}
