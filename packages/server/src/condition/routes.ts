import { routes } from '@bright-cellar/contract';
import { judgeCondition } from '@bright-cellar/core';
import { installationFolder } from '../kernel/installation.js';
import type { Served } from '../served.js';
import { conditionFacts } from './facts.js';

/** How the installation is, and what to do. */
export function conditionRoutes({ answer, shop, relay }: Served): void {
  const { db, bench, orders, network, clock } = shop;
  answer(routes.condition, async () => {
    const facts = await conditionFacts(db, installationFolder(''), clock.now(), {
      processes: { work: await orders.answers(), adapter: bench.connected },
      certificate: network.certificate(),
      toldUpTo: relay.upTo,
    });
    return judgeCondition(facts);
  });
}
