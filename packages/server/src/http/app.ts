import { fileURLToPath } from 'node:url';
import { EVENTS_PATH, openApiDocument, routes } from '@bright-cellar/contract';
import { Failure, problemOf, type ProblemCode } from '@bright-cellar/core';
import cookieParser from 'cookie-parser';
import { sql } from 'drizzle-orm';
import express, { type ErrorRequestHandler, type Express, type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import type { Config } from '../config.js';
import { describeError, type Log } from '../log.js';
import { noteAudit } from '../services/audit.js';
import { PasswordDesks } from '../services/password-desk.js';
import type { Planning } from '../services/planning.js';
import type { RegularWorks } from '../services/regular.js';
import type { Shop } from '../services/shop.js';
import { signIn } from '../services/technicians.js';
import { answer, InputFailure } from './answer.js';
import type { Live } from './live.js';
import {
  beginSession,
  checkedSession,
  currentSession,
  endSession,
  readSession,
} from './session.js';
import { cellarRoutes } from './cellar-routes.js';
import { counterRoutes } from './counter-routes.js';
import type { Served } from './served.js';
import { workRoutes } from './work-routes.js';

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
  const { db, bench } = shop;
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
      routes.startBackup,
      routes.startProof,
      routes.startRestore,
      routes.continueOperation,
      routes.retryFailed,
      routes.armSchedule,
      routes.setUpEscrow,
      routes.openByEscrow,
      routes.furtherCost,
      routes.changePassword,
      routes.startExport,
      routes.startImport,
    ].map(({ path }) => path),
    // Who is not signed in tries no password: they are refused for that. Nor does who begins a new archive.
    fewTries((request) => currentSession(request) === null || beginsArchive(request)),
  );
  const desks = new PasswordDesks(() => live.tell({ type: 'changed', topic: 'tickets' }));
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
  const served: Served = { app, shop, planning, regular, desks, live, config };
  counterRoutes(served);
  workRoutes(served);
  cellarRoutes(served);
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

function beginsArchive({ body, path }: { body: unknown; path: string }): boolean {
  return (
    path.endsWith('/backups') &&
    typeof body === 'object' &&
    body !== null &&
    'archiveId' in body &&
    body.archiveId === null
  );
}

/** A browser says which page a request came from; one from elsewhere is refused, whatever it carries. */
function sameOrigin(request: Request, _response: unknown, next: (error?: unknown) => void): void {
  const { origin, host } = request.headers;
  const ours = origin === undefined || origin === `http://${host}` || origin === `https://${host}`;
  next(ours ? undefined : new Failure('request-not-trusted'));
}
