import { certificatePath, routes } from '@bright-cellar/contract';
import { idSchema } from '@bright-cellar/core';
import { allowed } from '../http/index.js';
import { readSettings } from '../settings/index.js';
import type { Served } from '../served.js';
import { disposalInFull, listDisposals } from './disposals.js';
import { hold, keepingOf, keepLonger, liftHold, listDue } from './keeping.js';

/** How long archives are kept, and the certificates of those that were destroyed. */
export function keepRoutes({ app, answer, shop }: Served): void {
  const { db, clock } = shop;
  answer(routes.keeping, ({ params }) => keepingOf(db, params.id));
  answer(routes.keepLonger, ({ context, params, body }) => keepLonger(context, params.id, body));
  answer(routes.hold, ({ context, params, body }) => hold(context, params.id, body.reason));
  answer(routes.liftHold, ({ context, params }) => liftHold(context, params.id));
  answer(routes.due, async () => {
    const [due, disposals] = await Promise.all([listDue(db, clock.now()), listDisposals(db)]);
    return { ...due, disposals };
  });
  app.get(certificatePath(':id'), async (request, response) => {
    allowed(request, 'see');
    const found = await disposalInFull(db, idSchema.parse(request.params.id));
    const { certificateFor } = await import('./certificate.js');
    response.type('application/pdf');
    response.setHeader(
      'content-disposition',
      `inline; filename="disposal-${found.disposal.number}.pdf"`,
    );
    response.send(await certificateFor(found, (await readSettings(db)).shop));
  });
}
