import { routes } from '@bright-cellar/contract';
import { archiveById, listArchives } from '../services/archives.js';
import { escrowView, openByEscrow, setUpEscrow } from '../services/escrow.js';
import {
  changeArchivePassword,
  listPackages,
  startExport,
  startImport,
} from '../services/packages.js';
import { dayReport } from '../services/reports.js';
import { backupForWork } from '../services/shop.js';
import { readSettings, saveSettings } from '../services/settings.js';
import { answer } from './answer.js';
import type { Served } from './served.js';

/** Downstairs: archives, packages, escrow; the day and the house rules. */
export function cellarRoutes({ app, shop, desks, live }: Served): void {
  const { db } = shop;
  answer(app, routes.dayReport, ({ query }) => dayReport(db, query.day));
  answer(app, routes.escrow, () => escrowView(db));
  answer(app, routes.setUpEscrow, async ({ body, by }) => {
    await setUpEscrow(shop, body.people, by.technicianId);
    return escrowView(db);
  });
  answer(app, routes.openByEscrow, async ({ params, body, by }) => {
    await openByEscrow(shop, params.id, body, by.technicianId);
    live.tell({ type: 'changed', topic: 'archives' });
    return archiveById(db, params.id);
  });
  answer(app, routes.settings, () => readSettings(db));
  answer(app, routes.saveSettings, async ({ body, by }) => {
    await saveSettings(db, body, by.technicianId);
    return readSettings(db);
  });
  answer(app, routes.archives, () => listArchives(db));
  answer(app, routes.archive, ({ params }) => archiveById(db, params.id));
  answer(app, routes.changePassword, async ({ params, body, by }) => {
    await changeArchivePassword(shop, params.id, body, by.technicianId);
    live.tell({ type: 'changed', topic: 'archives' });
    return archiveById(db, params.id);
  });
  answer(app, routes.packages, () => listPackages(shop));
  answer(app, routes.startExport, async ({ params, body, by }) => {
    const { device } = await backupForWork(db, params.id);
    return desks.use(device.id, body, 'package', 'hold', (wanted) =>
      startExport(shop, params.id, wanted, by.technicianId),
    );
  });
  answer(app, routes.startImport, ({ params, body, by }) =>
    startImport(shop, params.id, body, by.technicianId),
  );
}
