import { rackLabelPath, routes } from '@bright-cellar/contract';
import { rackIdSchema } from '@bright-cellar/core';
import { allowed } from '../http/index.js';
import type { Served } from '../served.js';
import { drivePlaces } from '../settings/index.js';
import { addRack, changeRack, hostKey, rackPlaces, retireRack, tryRack } from './keeping.js';
import { allElevations, copiesOn } from './on-rack.js';
import { rackInFull } from './in-full.js';
import { looksOn } from './looks.js';
import { listPackages } from './packages.js';
import { listRacks } from './racks.js';
import { listRecovered, measureRecovered } from './recovered.js';

/** Racks, and what lies on them beside archives. */
export function rackRoutes({ app, answer, shop }: Served): void {
  const { db, clock } = shop;
  answer(routes.racks, () => listRacks(db));
  answer(routes.elevations, () => allElevations(db, clock.now()));
  answer(routes.rackPlaces, async () => rackPlaces(shop, await drivePlaces(db)));
  answer(routes.tryRack, ({ context, body }) => tryRack(context, body));
  answer(routes.hostKey, ({ body }) => hostKey(body));
  answer(routes.addRack, ({ context, body }) => addRack(context, body));
  answer(routes.rack, ({ params }) => rackInFull(db, params.id, clock.now()));
  answer(routes.rackCopies, ({ params, query }) => copiesOn(db, params.id, query));
  answer(routes.rackLooks, ({ params }) => looksOn(db, params.id));
  answer(routes.changeRack, ({ context, params, body }) => changeRack(context, params.id, body));
  answer(routes.retireRack, async ({ context, params, body }) => {
    await retireRack(context, params.id, body.typedName);
    return {};
  });
  app.get(rackLabelPath(':id'), async (request, response) => {
    allowed(request, 'see');
    const { rack } = await rackInFull(db, rackIdSchema.parse(request.params.id), clock.now());
    const { rackLabel } = await import('./label.js');
    response.type('application/pdf');
    response.setHeader('content-disposition', `inline; filename="rack-${rack.code}.pdf"`);
    response.send(await rackLabel(rack));
  });
  answer(routes.packages, () => listPackages(db));
  answer(routes.recoveredFolders, () => listRecovered(db));
  answer(routes.measureRecovered, ({ body }) => measureRecovered(db, body.rackId, body.name));
}
