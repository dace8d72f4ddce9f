import { routes } from '@bright-cellar/contract';
import { accountView, changeOwnPassword, endOwnSessions } from '../services/account.js';
import { answer } from './answer.js';
import type { Served } from './served.js';
import { endSession } from './session.js';

/** One's own account: where it is signed in, who tried to, and its password. */
export function accountRoutes({ app, shop: { db }, live }: Served): void {
  answer(app, routes.account, ({ by }) => accountView(db, by.technicianId));
  answer(app, routes.endSessions, async ({ by, response }) => {
    for (const token of await endOwnSessions(db, by.technicianId)) live.endSession(token);
    await endSession(db, by, response);
    return {};
  });
  answer(app, routes.changeOwnPassword, async ({ body, by }) => {
    const ended = await changeOwnPassword(db, by, body);
    for (const token of ended) live.endSession(token);
    return accountView(db, by.technicianId);
  });
}
