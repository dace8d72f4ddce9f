import { routes } from '@bright-cellar/contract';
import {
  continueBackup,
  discardBackup,
  furtherCost,
  retryFailed,
  startBackup,
} from '../services/backups.js';
import { eraseReadiness, startErase } from '../services/erases.js';
import { startExtract } from '../services/extracts.js';
import { failedItems } from '../services/failed-items.js';
import {
  operationById,
  operationRow,
  pauseOperation,
  runningOperations,
  stopOperation,
} from '../services/operations.js';
import { keepPlan } from '../services/plans.js';
import { startProof } from '../services/proofs.js';
import { listRecovered, measureRecovered, takeOverRecovered } from '../services/recovered.js';
import { restoreTarget, startRestore } from '../services/restores.js';
import { backupForWork } from '../services/shop.js';
import { updateDevice } from '../services/updates.js';
import { ticketForWork } from '../services/visits.js';
import { answer } from './answer.js';
import type { Served } from './served.js';

/** Work on devices: backups, what was recovered, proofs, restores, erases, open files, and what is regular. */
export function workRoutes({ app, shop, planning, regular, desks }: Served): void {
  const { db, orders } = shop;
  /** The device that a password is for; only what its own holder typed may be used for it. */
  const deviceOfTicket = async (number: string) => (await ticketForWork(db, number)).device.id;
  const deviceOfBackup = async (operationId: string) => {
    const { input } = await operationRow(db, operationId);
    return input.kind === 'backup' ? input.knownDeviceId : '';
  };
  answer(app, routes.startExtract, ({ params, body, by }) =>
    startExtract(shop, params.number, body, by.technicianId),
  );
  answer(app, routes.regularWork, () => regular.list());
  answer(app, routes.schedule, async ({ params, body, by }) => {
    await regular.add(params.number, body, by.technicianId);
    return regular.list();
  });
  answer(app, routes.endSchedule, async ({ params, by }) => {
    await regular.end(params.id, by.technicianId);
    return regular.list();
  });
  answer(app, routes.armSchedule, async ({ params, body, by }) => {
    const deviceId = await regular.deviceOf(params.id);
    await desks.use(deviceId, body, 'regular', 'forget', ({ password }) =>
      regular.arm(params.id, password, by.technicianId),
    );
    return regular.list();
  });
  answer(app, routes.updateDevice, async ({ params, body, by }) => {
    await updateDevice(shop, params.deviceId, body.serialTail, by.technicianId);
    return {};
  });
  answer(app, routes.furtherCost, async ({ params, body, by }) =>
    desks.use(await deviceOfTicket(params.number), body, 'further', 'hold', (wanted) =>
      furtherCost(shop, planning, params.number, wanted, by.technicianId),
    ),
  );
  answer(app, routes.startBackup, async ({ params, body, by }) => {
    const deviceId = await deviceOfTicket(params.number);
    const action = body.archiveId === null ? 'backup' : 'further';
    const operation = await desks.use(deviceId, body, action, 'hold', (wanted) =>
      startBackup(shop, planning, params.number, wanted, by.technicianId),
    );
    await keepPlan(db, params.number, body, '', by.technicianId);
    return operation;
  });
  answer(app, routes.recoveredFolders, () => listRecovered(db));
  answer(app, routes.measureRecovered, ({ body }) => measureRecovered(db, body.rackId, body.name));
  answer(app, routes.takeOverRecovered, async ({ params, body, by }) =>
    desks.use(await deviceOfTicket(params.number), body, 'backup', 'hold', (wanted) =>
      takeOverRecovered(shop, params.number, wanted, by.technicianId),
    ),
  );
  answer(app, routes.pauseOperation, ({ params, body, by }) =>
    pauseOperation(db, orders, params.id, body.paused, by.technicianId),
  );
  answer(app, routes.retryFailed, async ({ params: { id }, body, by }) =>
    desks.use(await deviceOfBackup(id), body, 'further', 'hold', ({ password }) =>
      retryFailed(shop, planning, id, password, by.technicianId),
    ),
  );
  answer(app, routes.failedItems, ({ params, by }) =>
    failedItems(shop, planning, params.id, by.technicianId),
  );
  answer(app, routes.operations, () => runningOperations(db));
  answer(app, routes.operation, ({ params }) => operationById(db, params.id));
  answer(app, routes.stopOperation, ({ params, by }) =>
    stopOperation(db, orders, params.id, by.technicianId),
  );
  answer(app, routes.continueOperation, async ({ params: { id }, body, by }) =>
    desks.use(await deviceOfBackup(id), body, 'continue', 'hold', ({ password }) =>
      continueBackup(shop, id, password, by.technicianId),
    ),
  );
  answer(app, routes.discardOperation, ({ params, by }) =>
    discardBackup(shop, params.id, by.technicianId),
  );
  answer(app, routes.startProof, async ({ params, body, by }) => {
    const { device } = await backupForWork(db, params.id);
    return desks.use(device.id, body, 'proof', 'forget', (wanted) =>
      startProof(shop, params.id, wanted, by.technicianId),
    );
  });
  answer(app, routes.restoreTarget, async ({ params }) => {
    const { backup, conditions } = await restoreTarget(shop, params.id, params.deviceId);
    return { backup, conditions };
  });
  answer(app, routes.startRestore, async ({ params, body, by }) => {
    const { device } = await backupForWork(db, params.id);
    return desks.use(device.id, body, 'restore', 'forget', (wanted) =>
      startRestore(shop, params.id, wanted, by.technicianId),
    );
  });
  answer(app, routes.eraseReadiness, ({ params }) => eraseReadiness(shop, params.deviceId));
  answer(app, routes.startErase, ({ params, body, by }) =>
    startErase(shop, params.deviceId, body.serialTail, by.technicianId),
  );
}
