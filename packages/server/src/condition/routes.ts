import { routes } from '@bright-cellar/contract';
import { judgeCondition, type ConditionFacts, type Finding } from '@bright-cellar/core';
import { installationFolder } from '../kernel/installation.js';
import type { Relay } from '../kernel/relay.js';
import type { Served } from '../served.js';
import type { Shop } from '../shop.js';
import { conditionFacts } from './facts.js';

/** How the installation is, and what to do. */
export function conditionRoutes({ answer, shop, relay }: Served): void {
  answer(routes.condition, async () => (await conditionOf(shop, relay)).findings);
}

/** How the installation is at this moment: what was found, and what that was judged from. */
export async function conditionOf(
  { db, bench, orders, network, clock }: Shop,
  relay: Relay,
): Promise<{ facts: ConditionFacts; findings: Finding[] }> {
  const facts = await conditionFacts(db, installationFolder(''), clock.now(), {
    processes: orders.answers().then((work) => ({ work, adapter: bench.connected })),
    certificate: network.certificate(),
    toldUpTo: relay.upTo,
  });
  return { facts, findings: judgeCondition(facts) };
}
