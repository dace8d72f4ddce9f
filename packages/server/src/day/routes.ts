import { daySheetPath, daySheetsSchema, routes } from '@bright-cellar/contract';
import { allowed } from '../http/index.js';
import { shopOnPaper } from '../settings/index.js';
import type { Served } from '../served.js';
import { daySheet } from './sheet.js';

const titles = { opening: 'Opening', closing: 'Closing' };
const long = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeStyle: 'short' });

/** The sheet for whoever opens the shop, and the one for whoever closes it. */
export function dayRoutes({ app, answer, shop, care, relay }: Served): void {
  answer(routes.daySheet, ({ query }) => daySheet(shop, { care, relay }, query.which));
  app.get(daySheetPath(':which'), async (request, response) => {
    allowed(request, 'see');
    const which = daySheetsSchema.parse(request.params.which);
    const sheet = await daySheet(shop, { care, relay }, which);
    const { drawSheet } = await import('../paper/index.js');
    const pdf = await drawSheet(
      {
        shop: await shopOnPaper(shop.db),
        title: titles[which],
        under: long.format(new Date(sheet.at)),
        foot: 'Keep this sheet: the seal on it shows later whether the record was changed.',
      },
      [
        { title: '', lines: [{ name: 'First', text: sheet.now }] },
        ...sheet.sections.map(({ title, lines, empty }) => ({
          ...{ title, lines: lines.length > 0 ? lines : [{ name: '', text: empty }] },
        })),
      ],
    );
    response.type('application/pdf');
    response.setHeader('content-disposition', `inline; filename="${which}.pdf"`);
    response.send(pdf);
  });
}
