import { handled, type Handled } from '../../engine/orders.js';
import {
  closePartner,
  decideMerge,
  fileOf,
  keptOf,
  openBackup,
  openKept,
  openDevice,
  openFiles,
  mergeLines,
  openPartner,
  setUpSync,
} from './held-syncs.js';
import { filesOfBackup, type ReadLookIn } from './backup-books.js';
import { joinPersons, samePersonsOf } from './persons.js';
import {
  closePartnerOrder,
  decideMergeOrder,
  joinPersonsOrder,
  keepPartnerOrder,
  openKeptOrder,
  mergeLinesOrder,
  openBackupOrder,
  openDeviceOrder,
  openFilesOrder,
  openPartnerOrder,
  partnerFileOrder,
  samePersonsOrder,
  setUpSyncOrder,
} from './orders.js';

/** @param read reads what somebody looks into. @throws Failure `look-in-over`, also to anybody else */
export const syncOrders = (read: ReadLookIn): Handled[] => [
  handled(openDeviceOrder, async (asked) => openDevice(asked)),
  handled(openBackupOrder, async ({ lookIn, technicianId, deviceId }) => {
    const files = await read({ id: lookIn, technicianId }, filesOfBackup);
    return openBackup({ technicianId, deviceId, files });
  }),
  handled(openPartnerOrder, (asked) => openPartner(asked)),
  handled(openFilesOrder, (asked) => openFiles(asked)),
  handled(partnerFileOrder, async ({ id, technicianId, kind }) => fileOf(id, technicianId, kind)),
  handled(keepPartnerOrder, async ({ id, technicianId }) => keptOf(id, technicianId)),
  handled(openKeptOrder, async (asked) => openKept(asked)),
  handled(closePartnerOrder, async ({ id, technicianId }) => {
    closePartner(id, technicianId);
    return {};
  }),
  handled(setUpSyncOrder, async ({ id, technicianId, ...how }) => setUpSync(id, technicianId, how)),
  handled(mergeLinesOrder, async ({ id, technicianId, ...asked }) =>
    mergeLines(id, technicianId, asked),
  ),
  handled(samePersonsOrder, async ({ id, technicianId }) => samePersonsOf(id, technicianId)),
  handled(joinPersonsOrder, async ({ id, technicianId, ...how }) => {
    await joinPersons(id, technicianId, how);
    return {};
  }),
  handled(decideMergeOrder, async ({ id, technicianId, ...decided }) => {
    await decideMerge(id, technicianId, decided);
    return {};
  }),
];
