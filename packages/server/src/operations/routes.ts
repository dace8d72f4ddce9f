import { pipeline } from 'node:stream/promises';
import {
  givenPackagePath,
  operationTakenPath,
  ORGANISER_FILES_BYTES_MAX,
  organiserFilePath,
  organiserFilesPath,
  PACKAGE_BYTES_MAX,
  routes,
  startRouteOf,
} from '@bright-cellar/contract';
import {
  Failure,
  operationKinds,
  rackIdSchema,
  syncedKinds,
  ticketNumberSchema,
  type OperationKind,
} from '@bright-cellar/core';
import express from 'express';
import { z } from 'zod';
import { activeOperations, pauseOperation, stopOperation } from '../engine/index.js';
import { allowed, keptNowhere } from '../http/index.js';
import type { Served } from '../served.js';
import type { Context } from '../shop.js';
import { retryFailed } from './backup/again.js';
import { packagesOf, takePackage } from './bring-applications/packages.js';
import { messageFileRoutes } from './bring-back/message-files.js';
import { givenFileSchema } from './given-file.js';
import { crossingExamples } from './cross/start.js';
import { failedItems } from './backup/failed-items.js';
import { furtherCost } from './backup/further.js';
import { takeOverRecovered } from './backup/recovered-start.js';
import { giveUp, goOn, operationInFull } from './cut-short.js';
import { eraseReadiness } from './erase/start.js';
import { fetchTaken } from './extract/fetch.js';
import { weighPrune } from './prune/start.js';
import { choicesBeside, choicesForTicket } from './restore/choices.js';
import { startMigration } from './restore/migrate.js';
import { restoreTarget } from './restore/start.js';
import type { Start } from './start.js';
import { starts } from './starts.js';
import {
  closePartnerOrder,
  decideMergeOrder,
  joinPersonsOrder,
  mergeLinesOrder,
  samePersonsOrder,
  partnerFileOrder,
} from './sync/orders.js';
import {
  openCustomersBackup,
  openCustomersDevice,
  openCustomersFiles,
  openCustomersServer,
} from './sync/open.js';

const givenPackageSchema = z.object({
  number: ticketNumberSchema,
  rackId: rackIdSchema,
  bytes: z.number().min(1).max(PACKAGE_BYTES_MAX),
});

const mineOf = ({ actor }: Context, id: string) => ({ id, technicianId: actor.technicianId });

/** Long work: starting each kind, and what is asked of all of them. */
export function operationRoutes(served: Served): void {
  const { app, answer, shop } = served;
  const { db } = shop;
  for (const kind of operationKinds) {
    const start = starts[kind] as unknown as Start<OperationKind>;
    answer(startRouteOf(kind), ({ context, params, body }) => start(context, params, body));
  }
  answer(routes.operations, () => activeOperations(db));
  answer(routes.operation, ({ params }) => operationInFull(db, params.id));
  answer(routes.stopOperation, ({ context, params }) => stopOperation(context, params.id));
  answer(routes.pauseOperation, ({ context, params, body }) =>
    pauseOperation(context, params.id, body.paused),
  );
  answer(routes.continueOperation, ({ context, params, body }) => goOn(context, params.id, body));
  answer(routes.discardOperation, ({ context, params }) => giveUp(context, params.id));

  answer(routes.retryFailed, ({ context, params, body }) => retryFailed(context, params.id, body));
  answer(routes.failedItems, ({ context, params }) => failedItems(context, params.id));
  answer(routes.furtherCost, ({ context, params, body }) =>
    furtherCost(context, params.number, body),
  );
  answer(routes.takeOverRecovered, ({ context, params, body }) =>
    takeOverRecovered(context, params.number, body),
  );
  answer(routes.startMigration, ({ context, params, body }) =>
    startMigration(context, params.number, body),
  );
  answer(routes.weighPruning, ({ context, params, body }) => weighPrune(context, params.id, body));
  answer(routes.applications, async ({ context, params }) => {
    const { applicationsOf } = await import('./extract/applications-of.js');
    return applicationsOf(context, params.number);
  });
  answer(routes.restoreChoices, ({ context, params }) => choicesBeside(context, params.id));
  answer(routes.ticketRestoreChoices, ({ context, params }) =>
    choicesForTicket(context, params.number),
  );
  answer(routes.restoreTarget, async ({ context, params }) => {
    const { facts: _, ...target } = await restoreTarget(context, params.id, params.deviceId);
    return target;
  });
  messageFileRoutes(served);
  answer(routes.openPartner, ({ context, params, body }) =>
    openCustomersServer(context, params.number, { deviceId: params.deviceId, ...body }),
  );
  answer(routes.openPartnerDevice, ({ context, params, body }) =>
    openCustomersDevice(context, params.number, { deviceId: params.deviceId, ...body }),
  );
  answer(routes.openPartnerBackup, ({ context, params, body }) =>
    openCustomersBackup(context, params.number, { deviceId: params.deviceId, ...body }),
  );
  app.post(
    organiserFilesPath(':number', ':deviceId'),
    express.text({ type: 'text/plain', limit: ORGANISER_FILES_BYTES_MAX }),
    async (request, response) => {
      const actor = allowed(request, 'restore');
      const given = givenFileSchema.safeParse({ ...request.params, text: request.body as unknown });
      if (!given.success) throw new Failure('not-found');
      const { number, ...asked } = given.data;
      response.json(await openCustomersFiles({ ...shop, actor }, number, asked));
    },
  );
  app.get(organiserFilePath(':id', ':kind'), async (request, response) => {
    const actor = allowed(request, 'restore');
    const asked = z.object({ id: z.uuid(), kind: z.enum(syncedKinds) }).safeParse(request.params);
    if (!asked.success) throw new Failure('not-found');
    const { technicianId } = actor;
    const { name, text } = await shop.orders.ask(partnerFileOrder, { ...asked.data, technicianId });
    keptNowhere(response);
    response.attachment(name);
    response.send(text);
  });
  answer(routes.closePartner, ({ context, params }) =>
    context.orders.ask(closePartnerOrder, mineOf(context, params.id)),
  );
  answer(routes.mergeLines, ({ context, params, body }) =>
    context.orders.ask(mergeLinesOrder, { ...mineOf(context, params.id), ...body }),
  );
  answer(routes.decideMerge, ({ context, params, body }) =>
    context.orders.ask(decideMergeOrder, { ...mineOf(context, params.id), ...body }),
  );
  answer(routes.samePersons, ({ context, params }) =>
    context.orders.ask(samePersonsOrder, mineOf(context, params.id)),
  );
  answer(routes.joinPersons, ({ context, params, body }) =>
    context.orders.ask(joinPersonsOrder, { ...mineOf(context, params.id), ...body }),
  );
  answer(routes.crossingExamples, ({ context, params }) => crossingExamples(context, params.id));
  answer(routes.applicationPackages, ({ context, params }) => packagesOf(context, params.number));
  app.post(givenPackagePath(':number', ':rackId'), async (request, response) => {
    const actor = allowed(request, 'restore');
    const bytes = Number(request.headers['content-length'] ?? NaN);
    const given = givenPackageSchema.safeParse({ ...request.params, bytes });
    if (!given.success) throw new Failure('not-found');
    response.json(await takePackage({ ...shop, actor }, given.data, request));
  });
  app.get(operationTakenPath(':id'), async (request, response) => {
    const actor = allowed(request, 'take-out');
    const id = z.uuid().safeParse(request.params.id);
    if (!id.success) throw new Failure('not-found');
    const { name, bytes } = await fetchTaken({ ...shop, actor }, id.data);
    keptNowhere(response);
    response.attachment(name);
    await pipeline(bytes, response).catch(() => response.destroy());
  });
  answer(routes.eraseReadiness, ({ context, params }) => eraseReadiness(context, params.deviceId));
}
