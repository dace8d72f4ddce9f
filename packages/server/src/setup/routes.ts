import { routes } from '@bright-cellar/contract';
import { beginSession } from '../http/index.js';
import { theProgram } from '../kernel/actor.js';
import { sessionView } from '../people/index.js';
import type { Served } from '../served.js';
import { beginShop, isBegun } from './setup.js';

/** The first visit. Nobody is signed in: there is nobody. */
export function setupRoutes({ answer, shop, config }: Served): void {
  const { db } = shop;
  answer(routes.setUp, async () => ({
    needed: config.setUpCode !== null && !(await isBegun(db)),
  }));
  answer(routes.beginShop, async ({ body, response }) => {
    const keeper = await beginShop({ ...shop, actor: theProgram }, config.setUpCode, body);
    const csrfToken = await beginSession(db, keeper.id, response);
    return sessionView(shop, config, keeper, { csrfToken });
  });
}
