import { handled, type Handled } from '../../engine/orders.js';
import type { ReadLookIn } from './backup-books.js';
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

/** Parsers of address books and calendars, and who talks to partners: loaded when somebody first wants them. */
const held = () => import('./held-syncs.js');
const persons = () => import('./persons.js');

/** @param read reads what somebody looks into. @throws Failure `look-in-over`, also to anybody else */
export const syncOrders = (read: ReadLookIn): Handled[] => [
  handled(openDeviceOrder, async (asked) => (await held()).openDevice(asked)),
  handled(openBackupOrder, async ({ lookIn, technicianId, deviceId }) => {
    const { filesOfBackup } = await import('./backup-books.js');
    const files = await read({ id: lookIn, technicianId }, filesOfBackup);
    return (await held()).openBackup({ technicianId, deviceId, files });
  }),
  handled(openPartnerOrder, async (asked) => (await held()).openPartner(asked)),
  handled(openFilesOrder, async (asked) => (await held()).openFiles(asked)),
  handled(partnerFileOrder, async ({ id, technicianId, kind }) =>
    (await held()).fileOf(id, technicianId, kind),
  ),
  handled(keepPartnerOrder, async ({ id, technicianId }) =>
    (await held()).keptOf(id, technicianId),
  ),
  handled(openKeptOrder, async (asked) => (await held()).openKept(asked)),
  handled(closePartnerOrder, async ({ id, technicianId }) => {
    (await held()).closePartner(id, technicianId);
    return {};
  }),
  handled(setUpSyncOrder, async ({ id, technicianId, ...how }) =>
    (await held()).setUpSync(id, technicianId, how),
  ),
  handled(mergeLinesOrder, async ({ id, technicianId, ...asked }) =>
    (await held()).mergeLines(id, technicianId, asked),
  ),
  handled(samePersonsOrder, async ({ id, technicianId }) =>
    (await persons()).samePersonsOf(id, technicianId),
  ),
  handled(joinPersonsOrder, async ({ id, technicianId, ...how }) => {
    await (await persons()).joinPersons(id, technicianId, how);
    return {};
  }),
  handled(decideMergeOrder, async ({ id, technicianId, ...decided }) => {
    await (await held()).decideMerge(id, technicianId, decided);
    return {};
  }),
];
