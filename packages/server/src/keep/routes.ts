import {
  certificatePath,
  customerFilePath,
  customerFormatSchema,
  routes,
} from '@bright-cellar/contract';
import { idSchema } from '@bright-cellar/core';
import { allowed } from '../http/index.js';
import { shopOnPaper } from '../settings/index.js';
import type { Served } from '../served.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { customerData, customerSections, firstTicketOf } from './customer-data.js';
import { forgetCustomer } from './forgetting.js';
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
  answer(routes.customerData, ({ params }) => customerData(db, params.id));
  answer(routes.forgetCustomer, async ({ context, params }) => {
    await forgetCustomer(context, params.id);
    return customerData(db, params.id);
  });
  app.get(customerFilePath(':id', ':format'), async (request, response) => {
    const actor = allowed(request, 'customer-data');
    const format = customerFormatSchema.parse(request.params.format);
    const data = await customerData(db, idSchema.parse(request.params.id));
    await noteOnly(
      { ...shop, actor },
      {
        action: 'customer-data-taken-out',
        ticketId: await firstTicketOf(db, data.customer.id),
        what: `What is known of the customer was taken out, as ${format}.`,
      },
    );
    response.setHeader('cache-control', 'no-store');
    response.setHeader('content-disposition', `attachment; filename="customer.${format}"`);
    if (format === 'json') {
      response.type('application/json').send(JSON.stringify(data, null, 2));
      return;
    }
    const { drawSheet } = await import('../paper/index.js');
    const sheet = {
      ...{ shop: await shopOnPaper(db), title: 'What the shop knows of you' },
      under: new Intl.DateTimeFormat('en-GB', { dateStyle: 'full' }).format(clock.now()),
      foot: 'What is inside of backups is not on this sheet: nobody opens them without their password.',
    };
    response.type('application/pdf').send(await drawSheet(sheet, customerSections(data)));
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
    response.send(await certificateFor(found, await shopOnPaper(db)));
  });
}
