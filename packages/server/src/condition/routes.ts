import { routes } from '@bright-cellar/contract';
import { judgeCondition, type Finding } from '@bright-cellar/core';
import { installationFolder } from '../kernel/installation.js';
import type { Relay } from '../kernel/relay.js';
import type { Served } from '../served.js';
import type { Shop } from '../shop.js';
import { conditionFacts } from './facts.js';

/** How the installation is, and what to do. */
export function conditionRoutes({ answer, shop, relay }: Served): void {
  answer(routes.condition, () => findingsOf(shop, relay));
}

export async function findingsOf(
  { db, bench, orders, network, clock }: Shop,
  relay: Relay,
): Promise<Finding[]> {
  const facts = await conditionFacts(db, installationFolder(''), clock.now(), {
    processes: { work: await orders.answers(), adapter: bench.connected },
    certificate: network.certificate(),
    toldUpTo: relay.upTo,
  });
  return judgeCondition(facts);
}
