import { fileURLToPath } from 'node:url';
import {
  EVENTS_PATH,
  openApiDocument,
  paperKinds,
  paperPath,
  routes,
} from '@bright-cellar/contract';
import { Failure, problemOf, type ProblemCode } from '@bright-cellar/core';
import cookieParser from 'cookie-parser';
import { sql } from 'drizzle-orm';
import express, { type ErrorRequestHandler, type Express, type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import type { Config } from '../config.js';
import { describeError, type Log } from '../log.js';
import { archiveById, listArchives } from '../services/archives.js';
import { noteAudit } from '../services/audit.js';
import {
  compareDevice,
  continueBackup,
  discardBackup,
  retryFailed,
  startBackup,
} from '../services/backups.js';
import { eraseReadiness, startErase } from '../services/erases.js';
import { escrowView, openByEscrow, setUpEscrow } from '../services/escrow.js';
import { startExtract } from '../services/extracts.js';
import { find } from '../services/find.js';
import {
  operationById,
  pauseOperation,
  runningOperations,
  stopOperation,
} from '../services/operations.js';
import {
  changeArchivePassword,
  listPackages,
  startExport,
  startImport,
} from '../services/packages.js';
import { labelFor, slipFor } from '../services/papers.js';
import { PasswordDesks, qrCode } from '../services/password-desk.js';
import type { Planning } from '../services/planning.js';
import { startProof } from '../services/proofs.js';
import { listRacks } from '../services/racks.js';
import { listRecovered, measureRecovered, takeOverRecovered } from '../services/recovered.js';
import type { RegularWorks } from '../services/regular.js';
import { dayReport } from '../services/reports.js';
import { restoreTarget, startRestore } from '../services/restores.js';
import { readSettings, saveSettings } from '../services/settings.js';
import { backupForWork, type Shop } from '../services/shop.js';
import { signIn } from '../services/technicians.js';
import {
  closeTicket,
  findCustomers,
  knownVisits,
  listTickets,
  noteAgreement,
  openTicket,
  settleStep,
  ticketByNumber,
  tieDevice,
} from '../services/tickets.js';
import { updateDevice } from '../services/updates.js';
import { answer, InputFailure } from './answer.js';
import type { Live } from './live.js';
import {
  beginSession,
  checkedSession,
  currentSession,
  endSession,
  readSession,
} from './session.js';

const WEB = fileURLToPath(new URL('../../../web/dist/site', import.meta.url));

const statusOf: Partial<Record<ProblemCode, number>> = {
  'not-signed-in': 401,
  'sign-in-refused': 401,
  'request-not-trusted': 403,
  'input-not-valid': 422,
  'weak-password': 422,
  'wrong-password': 422,
  'wrong-serial': 422,
  'not-found': 404,
  'too-many-tries': 429,
  'link-down': 503,
  unexpected: 500,
};

/** Ten wrong tries a minute from one address, for each kind of door; right ones do not count. */
const fewTries = (skip: (request: Request) => boolean = () => false) =>
  rateLimit({
    windowMs: 60_000,
    limit: 10,
    skip,
    skipSuccessfulRequests: true,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: () => {
      throw new Failure('too-many-tries');
    },
  });

export function makeApp(
  shop: Shop,
  planning: Planning,
  regular: RegularWorks,
  live: Live,
  config: Config,
  log: Log,
): Express {
  const { db, bench, orders } = shop;
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      // Served over plain HTTP on the shop's own machine: there is no HTTPS to insist on.
      strictTransportSecurity: false,
      contentSecurityPolicy: {
        directives: {
          'upgrade-insecure-requests': null,
          'style-src': ["'self'", "'unsafe-inline'"],
        },
      },
    }),
  );
  app.get('/healthz', async (_request, response) => {
    await db.execute(sql`select 1`);
    response.json({ ok: true });
  });
  app.use('/api', (_request, response, next) => {
    response.setHeader('cache-control', 'no-store');
    next();
  });
  // A choice of single items is long; everything else is not.
  app.use('/api/tickets/:number', express.json({ limit: '8mb' }));
  app.use('/api', cookieParser(), express.json({ limit: '64kb' }), readSession(db));
  app.use('/api', sameOrigin);

  const sessionView = (by: { id: string; name: string; login: string }, csrfToken: string) => ({
    technician: by,
    csrfToken,
    trayAddress: config.trayAddress,
    shopName: config.shopName,
  });

  app.post(routes.signIn.path, fewTries());
  app.use('/api/desk', fewTries());
  app.post(
    [
      routes.startProof,
      routes.startRestore,
      routes.continueOperation,
      routes.retryFailed,
      routes.armSchedule,
      routes.setUpEscrow,
      routes.openByEscrow,
      routes.compareDevice,
      routes.changePassword,
      routes.startExport,
      routes.startImport,
    ].map(({ path }) => path),
    // Who is not signed in tries no password: they are refused for that.
    fewTries((request) => currentSession(request) === null),
  );
  const desks = new PasswordDesks();
  answer(app, routes.signIn, async ({ body, response }) => {
    const technician = await signIn(db, body.login, body.password);
    return sessionView(technician, await beginSession(db, technician.id, response));
  });
  answer(app, routes.session, ({ request }) => {
    const by = currentSession(request);
    return by && sessionView({ id: by.technicianId, name: by.name, login: by.login }, by.csrfToken);
  });
  answer(app, routes.signOut, async ({ by, response }) => {
    await endSession(db, by, response);
    await noteAudit(db, { technicianId: by.technicianId, action: 'sign-out', what: 'Signed out.' });
    live.endSession(by.tokenHash);
    return {};
  });

  app.get(EVENTS_PATH, async (request, response) => {
    checkedSession(request, false);
    live.listen(request, response, [{ type: 'bench', bench: await bench.view() }]);
  });
  answer(app, routes.bench, () => bench.view());
  answer(app, routes.racks, () => listRacks(db));
  answer(app, routes.find, ({ query }) => find(db, bench, query.text));
  answer(app, routes.customers, ({ query }) => findCustomers(db, query.text));

  answer(app, routes.tickets, () => listTickets(db, bench));
  answer(app, routes.ticket, ({ params }) => ticketByNumber(db, bench, params.number));
  answer(app, routes.newTicket, async ({ body, by }) => {
    const number = await openTicket(db, bench, body, by.technicianId);
    return changedTicket(number);
  });
  /** What changed on a ticket, told to everybody and answered as it is now. */
  const changedTicket = async (number: string) => {
    live.tell({ type: 'changed', topic: 'tickets' });
    live.tell({ type: 'bench', bench: await bench.view() });
    return ticketByNumber(db, bench, number);
  };
  answer(app, routes.noteAgreement, async ({ params, body, by }) => {
    await noteAgreement(db, params.number, body, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.settleStep, async ({ params, body, by }) => {
    await settleStep(db, bench, params.number, params.step, body, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.tieDevice, async ({ params, body, by }) => {
    await tieDevice(db, bench, params.number, body.deviceId, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.closeTicket, async ({ params, by }) => {
    await closeTicket(db, bench, params.number, by.technicianId);
    return changedTicket(params.number);
  });
  answer(app, routes.knownVisits, async ({ params }) =>
    knownVisits(db, await bench.freshFacts(params.deviceId)),
  );
  answer(app, routes.openDesk, async ({ params, body }) => {
    const { device } = await ticketByNumber(db, bench, params.number);
    const { token, until } = desks.open(
      params.number,
      `${device.familyName} ${device.model}`,
      body.purpose,
    );
    const address = `${config.publicAddress}/desk/${token}`;
    return { address, code: qrCode(address), until: until.toISOString() };
  });
  answer(app, routes.desk, ({ params }) => {
    const { state, until } = desks.stateOf(params.number);
    return { state, until: until?.toISOString() ?? null };
  });
  answer(app, routes.customerDesk, ({ params }) => ({
    shopName: config.shopName,
    ...desks.view(params.token),
  }));
  answer(app, routes.giveAtDesk, ({ params, body }) => {
    desks.give(params.token, body);
    live.tell({ type: 'changed', topic: 'tickets' });
    return {};
  });
  answer(app, routes.startExtract, ({ params, body, by }) =>
    startExtract(shop, params.number, body, by.technicianId),
  );
  answer(app, routes.applications, async ({ params }) => {
    const { device } = await ticketByNumber(db, bench, params.number);
    const { id } = await bench.presentDevice(device.serial);
    const groups = await bench.link.groups(id);
    return groups.filter((g) => g.class === 'applications');
  });
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
    await regular.arm(params.id, body.password, by.technicianId);
    return regular.list();
  });
  answer(app, routes.dayReport, ({ query }) => dayReport(db, query.day));
  answer(app, routes.updateDevice, async ({ params, body, by }) => {
    await updateDevice(shop, params.deviceId, body.serialTail, by.technicianId);
    return {};
  });
  answer(app, routes.escrow, () => escrowView(db));
  answer(app, routes.setUpEscrow, async ({ body, by }) => {
    await setUpEscrow(shop, body.people, by.technicianId);
    return escrowView(db);
  });
  answer(app, routes.openByEscrow, async ({ params, body }) => {
    await openByEscrow(shop, params.id, body);
    live.tell({ type: 'changed', topic: 'archives' });
    return archiveById(db, params.id);
  });
  answer(app, routes.settings, () => readSettings(db));
  answer(app, routes.saveSettings, async ({ body, by }) => {
    await saveSettings(db, body, by.technicianId);
    return readSettings(db);
  });

  for (const kind of paperKinds) {
    app.get(paperPath(':number', kind), async (request, response) => {
      checkedSession(request, false);
      const ticket = await ticketByNumber(db, bench, String(request.params.number));
      const paper = kind === 'label' ? labelFor(ticket) : slipFor(ticket, config.shopName);
      response.type('application/pdf');
      response.setHeader('content-disposition', `inline; filename="${kind}-${ticket.number}.pdf"`);
      response.send(await paper);
    });
  }

  answer(app, routes.listing, ({ params, by }) => planning.listing(params.number, by.technicianId));
  answer(app, routes.planCost, ({ params, body }) => planning.cost(params.number, body));
  answer(app, routes.plans, ({ params, by }) => planning.plans(params.number, by.technicianId));
  answer(app, routes.savePlan, async ({ params, body: { name, ...scope }, by }) => {
    await planning.keepPlan(params.number, scope, name, by.technicianId);
    return planning.plans(params.number, by.technicianId);
  });
  answer(app, routes.startBackup, async ({ params, body, by }) => {
    const operation = await desks.use(params.number, body, 'hold', (wanted) =>
      startBackup(shop, planning, params.number, wanted, by.technicianId),
    );
    await planning.keepPlan(params.number, body, '', by.technicianId);
    return operation;
  });
  answer(app, routes.recoveredFolders, () => listRecovered(db));
  answer(app, routes.measureRecovered, ({ body }) => measureRecovered(db, body.rackId, body.name));
  answer(app, routes.takeOverRecovered, ({ params, body, by }) =>
    desks.use(params.number, body, 'hold', (wanted) =>
      takeOverRecovered(shop, params.number, wanted, by.technicianId),
    ),
  );
  answer(app, routes.pauseOperation, ({ params, body, by }) =>
    pauseOperation(db, orders, params.id, body.paused, by.technicianId),
  );
  /** The ticket that an operation is for; only what its own customer typed may be used for it. */
  const ticketOf = async (id: string) => (await operationById(db, id)).ticketNumber ?? '';
  answer(app, routes.retryFailed, async ({ params: { id }, body, by }) =>
    desks.use(await ticketOf(id), body, 'hold', ({ password }) =>
      retryFailed(shop, planning, id, password, by.technicianId),
    ),
  );
  answer(app, routes.operations, () => runningOperations(db));
  answer(app, routes.operation, ({ params }) => operationById(db, params.id));
  answer(app, routes.stopOperation, ({ params, by }) =>
    stopOperation(db, orders, params.id, by.technicianId),
  );

  answer(app, routes.archives, () => listArchives(db));
  answer(app, routes.archive, ({ params }) => archiveById(db, params.id));
  answer(app, routes.continueOperation, async ({ params: { id }, body, by }) =>
    desks.use(await ticketOf(id), body, 'hold', ({ password }) =>
      continueBackup(shop, id, password, by.technicianId),
    ),
  );
  answer(app, routes.discardOperation, ({ params, by }) =>
    discardBackup(shop, params.id, by.technicianId),
  );
  answer(app, routes.compareDevice, ({ params, body, by }) =>
    compareDevice(shop, params.id, body.deviceId, body.password, by.technicianId),
  );
  answer(app, routes.changePassword, async ({ params, body, by }) => {
    await changeArchivePassword(shop, params.id, body, by.technicianId);
    live.tell({ type: 'changed', topic: 'archives' });
    return archiveById(db, params.id);
  });
  answer(app, routes.packages, () => listPackages(shop));
  answer(app, routes.startExport, ({ params, body, by }) =>
    startExport(shop, params.id, body, by.technicianId),
  );
  answer(app, routes.startImport, ({ params, body, by }) =>
    startImport(shop, params.id, body, by.technicianId),
  );
  answer(app, routes.startProof, async ({ params, body, by }) => {
    const { ticket } = await backupForWork(db, params.id);
    return desks.use(ticket.number, body, 'forget', (wanted) =>
      startProof(shop, params.id, wanted, by.technicianId),
    );
  });
  answer(app, routes.restoreTarget, async ({ params }) => {
    const { backup, conditions } = await restoreTarget(shop, params.id, params.deviceId);
    return { backup, conditions };
  });
  answer(app, routes.startRestore, ({ params, body, by }) =>
    startRestore(shop, params.id, body, by.technicianId),
  );
  answer(app, routes.eraseReadiness, ({ params }) => eraseReadiness(shop, params.deviceId));
  answer(app, routes.startErase, ({ params, body, by }) =>
    startErase(shop, params.deviceId, body.serialTail, by.technicianId),
  );
  answer(app, routes.openApi, () => openApiDocument());
  app.use('/api', () => {
    throw new Failure('not-found');
  });

  app.use(express.static(WEB, { index: false }));
  app.get(/^\/(?!api\/).*/, (_request, response) => {
    response.setHeader('cache-control', 'no-cache');
    response.sendFile('index.html', { root: WEB });
  });

  app.use(((error: unknown, request, response, next) => {
    if (response.headersSent) return next(error);
    const found = problemOf(isBadJson(error) ? new Failure('input-not-valid') : error);
    if (found.code === 'unexpected') {
      log.error({ method: request.method, error: describeError(error) }, 'unexpected');
    }
    response
      .status(statusOf[found.code] ?? 409)
      .json({ ...found, ...(error instanceof InputFailure ? { fields: error.fields } : {}) });
  }) satisfies ErrorRequestHandler);
  return app;
}

const isBadJson = (error: unknown) =>
  error instanceof SyntaxError || (error instanceof Error && error.name === 'PayloadTooLargeError');

/** A browser says which page a request came from; one from elsewhere is refused, whatever it carries. */
function sameOrigin(request: Request, _response: unknown, next: (error?: unknown) => void): void {
  const { origin, host } = request.headers;
  const ours = origin === undefined || origin === `http://${host}` || origin === `https://${host}`;
  next(ours ? undefined : new Failure('request-not-trusted'));
}
