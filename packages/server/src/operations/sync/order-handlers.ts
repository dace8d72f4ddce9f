import { handled, type Handled } from '../../engine/orders.js';
import {
  closePartner,
  decideMerge,
  fileOf,
  openFiles,
  mergeLines,
  openPartner,
  setUpSync,
} from './held-syncs.js';
import { joinPersons, samePersonsOf } from './persons.js';
import {
  closePartnerOrder,
  decideMergeOrder,
  joinPersonsOrder,
  mergeLinesOrder,
  openFilesOrder,
  openPartnerOrder,
  partnerFileOrder,
  samePersonsOrder,
  setUpSyncOrder,
} from './orders.js';

export const syncOrders = (): Handled[] => [
  handled(openPartnerOrder, (asked) => openPartner(asked)),
  handled(openFilesOrder, (asked) => openFiles(asked)),
  handled(partnerFileOrder, async ({ id, technicianId, kind }) => ({
    text: fileOf(id, technicianId, kind),
  })),
  handled(closePartnerOrder, async ({ id, technicianId }) => {
    closePartner(id, technicianId);
    return {};
  }),
  handled(setUpSyncOrder, async ({ id, technicianId, ...how }) => {
    setUpSync(id, technicianId, how);
    return {};
  }),
  handled(mergeLinesOrder, async ({ id, technicianId, ...asked }) =>
    mergeLines(id, technicianId, asked),
  ),
  handled(samePersonsOrder, async ({ id, technicianId }) => samePersonsOf(id, technicianId)),
  handled(joinPersonsOrder, async ({ id, technicianId, ...how }) => {
    joinPersons(id, technicianId, how);
    return {};
  }),
  handled(decideMergeOrder, async ({ id, technicianId, ...decided }) => {
    decideMerge(id, technicianId, decided);
    return {};
  }),
];
