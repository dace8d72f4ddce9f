import { routes } from '@bright-cellar/contract';
import type { Served } from '../served.js';
import { listPackages } from './packages.js';
import { listRacks } from './racks.js';
import { listRecovered, measureRecovered } from './recovered.js';

/** Racks, and what lies on them beside archives. */
export function rackRoutes({ answer, shop: { db } }: Served): void {
  answer(routes.racks, () => listRacks(db));
  answer(routes.packages, () => listPackages(db));
  answer(routes.recoveredFolders, () => listRecovered(db));
  answer(routes.measureRecovered, ({ body }) => measureRecovered(db, body.rackId, body.name));
}
