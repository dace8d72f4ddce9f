import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { strangers } from './strangers.js';
import { archiveById } from './archives.js';
import { listArchives, summariseArchives } from './list.js';
import { changeArchivePassword } from './passwords.js';

/** Archives, and who opens them. */
export function archiveRoutes({ answer, shop: { db, clock } }: Served): void {
  answer(routes.archives, ({ query }) => listArchives(db, query, clock.now()));
  answer(routes.strangers, ({ query }) => strangers(db, query.path));
  answer(routes.archivesSummary, () => summariseArchives(db));
  answer(routes.archive, ({ params }) => archiveById(db, params.id));
  answer(routes.changePassword, async ({ context, params, body }) => {
    await changeArchivePassword(context, params.id, body);
    return archiveById(db, params.id);
  });
}
