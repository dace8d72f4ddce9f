import type { BenchWatch } from './bench/index.js';
import type { Database } from './database/connect.js';
import type { PasswordDesks } from './desk/index.js';
import type { OrderClient } from './engine/order-client.js';
import type { Person } from './kernel/actor.js';
import type { Clock } from './kernel/clock.js';
import type { Acting, Projections } from './kernel/unit-of-work.js';
import type { Network } from './network/index.js';
import type { Planning } from './plans/index.js';

/** What the server works with. */
export interface Shop {
  db: Database;
  bench: BenchWatch;
  orders: OrderClient;
  planning: Planning;
  desks: PasswordDesks;
  clock: Clock;
  network: Network;
  projections: Projections;
  /** Called after each commit that changed something. */
  committed: () => void;
}

/** The shop, and who acts in it. */
export interface Context extends Shop {
  actor: Person;
  /** Told of each line that is on record now. */
  noted?: NonNullable<Acting['noted']>;
}
