import type { BenchView } from '@bright-cellar/contract';
import { DeviceLink } from '@bright-cellar/device-link';
import { makeApp, makeDeskApp } from './app.js';
import { adapterNow, BenchWatch, benchView } from './bench/index.js';
import { Care } from './care/index.js';
import type { Config } from './config.js';
import { connect, untilDatabaseAnswers } from './database/connect.js';
import { deskRecord, PasswordDesks } from './desk/index.js';
import { OrderClient } from './engine/order-client.js';
import { withdrawOwed } from './escrow/index.js';
import { goodSessions, Live } from './http/index.js';
import { theProgram } from './kernel/actor.js';
import { systemClock } from './kernel/clock.js';
import { describeError, type Log } from './log.js';
import { Relay } from './kernel/relay.js';
import { unitOfWork } from './kernel/unit-of-work.js';
import { operationInFull } from './operations/index.js';
import { Network } from './network/index.js';
import { Planning } from './plans/index.js';
import { projections } from './projections.js';
import { RackWatch } from './racks/index.js';
import { drivePlaces, readSettings } from './settings/index.js';
import { RegularWorks } from './regular/index.js';
import { Saves } from './saves/index.js';
import type { Shop } from './shop.js';

export interface RunningServer {
  port: number;
  /** Where the customer’s page is, on loopback. */
  deskPort: number;
  stop(): Promise<void>;
}

/** The server: answers browsers, follows the bench, and tells everybody what changed. */
export async function serve(config: Config, log: Log): Promise<RunningServer> {
  const connection = connect(config.databaseUrl);
  const { db } = connection;
  const clock = systemClock;
  await untilDatabaseAnswers(db, log);
  const ending = new AbortController();
  const live = new Live((tokens) => goodSessions(db, tokens));
  const report = (what: string) => (error: unknown) => {
    if (!ending.signal.aborted) log.error({ error: describeError(error) }, what);
  };

  const tellOperation = async (id: string) => {
    live.tell({ type: 'operation', operation: await operationInFull(db, id) });
  };
  const relay = new Relay({ db, clock, log }, (changes, upTo) => {
    live.tell({ type: 'changed', changes }, upTo);
    for (const { subject, ref } of changes) {
      if (subject === 'operation' && ref !== '')
        tellOperation(ref).catch(report('an operation could not be told'));
    }
    if (changes.some(({ subject }) => onBench.has(subject))) tellBench([]);
    if (changes.some(({ subject }) => subject === 'settings')) {
      bench.arrange().catch(report('the bench could not be told what was decided'));
    }
    if (changes.some(({ subject }) => subject === 'operation')) {
      rackWatch.wake();
    }
    if (changes.some(({ subject }) => subject === 'operation' || subject === 'rack')) care.wake();
  });
  const committed = () => relay.wake();
  const acting = { db, clock, committed, projections, actor: theProgram };

  const rackWatch = new RackWatch(acting, log, () => drivePlaces(db));
  const orders = new OrderClient(config.workSocket);
  let ticketOn = ticketsByDevice(null);
  const tellBench = gathered(async (deviceIds) => {
    const view = await benchView(db, bench);
    live.tell({ type: 'bench', bench: view });
    const before = ticketOn;
    ticketOn = ticketsByDevice(view);
    // What a device says of itself decides what is next on its own ticket, and on no other.
    const numbers = new Set(deviceIds.flatMap((id) => [before(id), ticketOn(id)]));
    const changes = [...numbers].flatMap((ref) =>
      ref === null ? [] : [{ subject: 'ticket' as const, ref }],
    );
    if (changes.length > 0) live.tell({ type: 'changed', changes });
  }, report('the bench could not be told'));
  const bench: BenchWatch = new BenchWatch(new DeviceLink(config.link), db, log, {
    rules: async () => (await readSettings(db)).bench,
    changed: tellBench,
    left: (deviceId) => planning.forget(deviceId),
  });
  bench.link.direct(await adapterNow(db, config.link, log));
  const planning = new Planning({ db, bench, orders, clock });
  const desks = new PasswordDesks(deskRecord(acting, log));
  const network = new Network(db, log, config);
  const shop: Shop = { db, network, bench, orders, planning, desks, clock, committed, projections };
  const regular = new RegularWorks(shop, log, () => {
    unitOfWork(acting, async (unit) => unit.changed('schedule')).catch(
      report('a change of what is regular could not be told'),
    );
  });
  regular.follow(ending.signal);
  const care = new Care(shop, log, config.careByItself);
  care.follow(ending.signal);
  const saves = new Saves(shop, log, config);
  saves.follow(ending.signal);
  const owed = setInterval(() => {
    withdrawOwed(shop).catch(report('what is owed could not be done'));
  }, OWED_EVERY_MS);
  await rackWatch.look().catch(report('the racks could not be looked at'));
  void rackWatch.follow(ending.signal).catch(report('racks are not looked at any more'));
  void relay.follow(ending.signal).catch(report('changes are not told any more'));
  void bench.follow(ending.signal).catch(report('the bench is not followed any more'));
  void orders
    .watch(
      {
        told: ({ operation }) => {
          if (operation === null) relay.wake();
          else tellOperation(operation).catch(report('an operation could not be told'));
        },
        reconnected: committed,
      },
      ending.signal,
    )
    .catch(report('the work process is not followed any more'));

  const { port, deskPort } = await network.open({
    shop: makeApp(shop, regular, care, saves, live, relay, config, log),
    desk: makeDeskApp(shop, log),
  });
  return {
    ...{ port, deskPort },
    async stop() {
      ending.abort();
      clearInterval(owed);
      live.close();
      await network.close();
      await connection.close();
    },
  };
}

/** What the bench strip shows beside devices. */
const onBench: ReadonlySet<string> = new Set(['ticket', 'operation', 'rack']);

/** The ticket that a device on the bench belongs to. */
const ticketsByDevice = (view: BenchView | null) => {
  const numbers = new Map<string | undefined, string | null>(
    view?.berths.map((b) => [b.device?.id, b.ticketNumber]),
  );
  return (deviceId: string): string | null => numbers.get(deviceId) ?? null;
};

const SOON_MS = 40;
/** What is owed to a copy that was away is tried again so often. */
const OWED_EVERY_MS = 30_000;

/** Gathers calls that come close together into one, with all that they were about. */
function gathered(
  work: (all: readonly string[]) => Promise<void>,
  onError: (error: unknown) => void,
): (some: readonly string[]) => void {
  let timer: NodeJS.Timeout | null = null;
  let all = new Set<string>();
  return (some) => {
    for (const one of some) all.add(one);
    timer ??= setTimeout(() => {
      timer = null;
      const now = [...all];
      all = new Set();
      void work(now).catch(onError);
    }, SOON_MS);
  };
}
