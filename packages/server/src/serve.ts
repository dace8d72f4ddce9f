import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { DeviceLink } from '@bright-cellar/device-link';
import type { Config } from './config.js';
import { connect, untilDatabaseAnswers } from './database/connect.js';
import { makeApp } from './http/app.js';
import { Live } from './http/live.js';
import { goodSessions } from './http/session.js';
import { describeError, type Log } from './log.js';
import { BenchWatch } from './services/bench.js';
import { withdrawOwed } from './services/escrow.js';
import { operationById } from './services/operations.js';
import { Planning } from './services/planning.js';
import { RegularWorks } from './services/regular.js';
import { OrderClient } from './work/order-client.js';

export interface RunningServer {
  port: number;
  stop(): Promise<void>;
}

/** The server: answers browsers, follows the bench, and tells everybody what changed. */
export async function serve(config: Config, log: Log): Promise<RunningServer> {
  const connection = connect(config.databaseUrl);
  const { db } = connection;
  await untilDatabaseAnswers(db, log);
  const ending = new AbortController();
  const live = new Live((tokens) => goodSessions(db, tokens));
  const report = (what: string) => (error: unknown) => {
    if (!ending.signal.aborted) log.error({ error: describeError(error) }, what);
  };

  const tellBench = soon(async () => {
    live.tell({ type: 'bench', bench: await bench.view() });
    live.tell({ type: 'changed', topic: 'tickets' });
  }, report('the bench could not be told'));
  const orders = new OrderClient(config.workSocket);
  const bench: BenchWatch = new BenchWatch(new DeviceLink(config.link), db, log, {
    changed: tellBench,
    left: (deviceId) => planning.forget(deviceId),
  });
  const shop = { db, bench, orders };
  const planning = new Planning(shop);
  const regular = new RegularWorks(shop, planning, log, () =>
    live.tell({ type: 'changed', topic: 'schedules' }),
  );
  regular.follow(ending.signal);
  const owed = setInterval(() => {
    withdrawOwed(shop).catch(report('what is owed could not be done'));
  }, OWED_EVERY_MS);

  const tellOperation = async (id: string) => {
    const operation = await operationById(db, id);
    live.tell({ type: 'operation', operation });
    if (operation.state === 'running') return;
    for (const topic of ['tickets', 'archives', 'racks', 'schedules'] as const)
      live.tell({ type: 'changed', topic });
    tellBench();
  };
  void bench.follow(ending.signal).catch(report('the bench is not followed any more'));
  void orders
    .watch(
      {
        changed: (id) => void tellOperation(id).catch(report('an operation could not be told')),
        reconnected: () => {
          for (const topic of ['tickets', 'archives', 'racks'] as const)
            live.tell({ type: 'changed', topic });
        },
      },
      ending.signal,
    )
    .catch(report('the work process is not followed any more'));

  const server = createServer(makeApp(shop, planning, regular, live, config, log));
  // A caller may ask again just when the usual five seconds are over, and find the door shut on it.
  server.keepAliveTimeout = 65_000;
  const port = await listening(server, config.port);
  return {
    port,
    async stop() {
      ending.abort();
      clearInterval(owed);
      live.close();
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
      await connection.close();
    },
  };
}

/** @returns the port, which is another one when 0 was asked for. */
async function listening(server: Server, port: number): Promise<number> {
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  return (server.address() as AddressInfo).port;
}

const SOON_MS = 40;
/** What is owed to a copy that was away is tried again so often. */
const OWED_EVERY_MS = 30_000;

/** Gathers calls that come close together into one. */
function soon(work: () => Promise<void>, onError: (error: unknown) => void): () => void {
  let timer: NodeJS.Timeout | null = null;
  return () => {
    timer ??= setTimeout(() => {
      timer = null;
      void work().catch(onError);
    }, SOON_MS);
  };
}
