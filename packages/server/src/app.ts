import { EVENTS_PATH, openApiDocument, routes } from '@bright-cellar/contract';
import { Failure, problemOf, type ProblemCode } from '@bright-cellar/core';
import cookieParser from 'cookie-parser';
import { sql } from 'drizzle-orm';
import express, { type ErrorRequestHandler, type Express, type Request } from 'express';
import { rateLimit, type Options } from 'express-rate-limit';
import helmet from 'helmet';
import { auditRoutes } from './audit/routes.js';
import { archiveRoutes } from './archives/routes.js';
import { benchRoutes } from './bench/routes.js';
import { benchView } from './bench/index.js';
import type { Care } from './care/index.js';
import { conditionRoutes } from './condition/routes.js';
import { careRoutes } from './care/routes.js';
import type { Config } from './config.js';
import { databaseFailure } from './database/connect.js';
import { customerDeskRoutes, deskRoutes } from './desk/routes.js';
import { escrowRoutes } from './escrow/routes.js';
import { dayRoutes } from './day/routes.js';
import { findRoutes } from './find/routes.js';
import {
  addressOf,
  answering,
  allowed,
  currentSession,
  InputFailure,
  readSession,
  deskSiteRoutes,
  siteRoutes,
  type Live,
} from './http/index.js';
import { describeError, type Log } from './log.js';
import type { Relay } from './kernel/relay.js';
import { operationRoutes } from './operations/routes.js';
import { keepRoutes } from './keep/routes.js';
import type { Network } from './network/index.js';
import { networkRoutes } from './network/routes.js';
import { lookInRoutes } from './look-ins/routes.js';
import { moveRoutes } from './moves/routes.js';
import { peopleRoutes } from './people/routes.js';
import { setupRoutes } from './setup/routes.js';
import { planRoutes } from './plans/routes.js';
import { rackRoutes } from './racks/routes.js';
import { regularRoutes } from './regular/routes.js';
import type { RegularWorks } from './regular/index.js';
import { reportRoutes } from './reports/routes.js';
import type { Saves } from './saves/index.js';
import { saveRoutes } from './saves/routes.js';
import type { Served } from './served.js';
import { settingsRoutes } from './settings/routes.js';
import type { Shop } from './shop.js';
import { ticketRoutes } from './tickets/routes.js';

/** Each subject answers its own routes. One line adds one. */
const subjects: ((served: Served) => void)[] = [
  setupRoutes,
  peopleRoutes,
  auditRoutes,
  benchRoutes,
  ticketRoutes,
  deskRoutes,
  planRoutes,
  operationRoutes,
  regularRoutes,
  archiveRoutes,
  rackRoutes,
  careRoutes,
  keepRoutes,
  moveRoutes,
  lookInRoutes,
  escrowRoutes,
  settingsRoutes,
  saveRoutes,
  conditionRoutes,
  dayRoutes,
  networkRoutes,
  reportRoutes,
  findRoutes,
];

const statusOf: Partial<Record<ProblemCode, number>> = {
  'not-signed-in': 401,
  'sign-in-refused': 401,
  'request-not-trusted': 403,
  'second-factor': 401,
  'second-factor-missing': 403,
  'session-locked': 401,
  'not-allowed': 403,
  'input-not-valid': 422,
  'weak-password': 422,
  'wrong-password': 422,
  'wrong-serial': 422,
  'not-found': 404,
  'too-many-tries': 429,
  'link-down': 503,
  'database-away': 503,
  unexpected: 500,
};

const tries = (limit: number, more: Partial<Options>) =>
  rateLimit({
    windowMs: 60_000,
    limit,
    skipSuccessfulRequests: true,
    // What the shop itself could not answer is nobody’s wrong try.
    requestWasSuccessful: (_request, { statusCode }) => statusCode < 400 || statusCode >= 500,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    ...more,
    handler: () => {
      throw new Failure('too-many-tries');
    },
  });

/** Whoever is signed in counts by themselves: a shop behind one proxy has one address for all. */
const personKey = (request: Request) => currentSession(request)?.technicianId ?? addressOf(request);

/** An account from one address: others, and the same account from elsewhere, are not shut out with it. */
function signInKey(request: Request): string {
  const { login } = (request.body ?? {}) as { login?: unknown };
  const name = typeof login === 'string' ? login.trim().toLowerCase().slice(0, 60) : '';
  return `${addressOf(request)} ${name}`;
}

/** Ten wrong tries a minute, for each kind of door; right ones do not count. */
const fewTries = (skip: (request: Request) => boolean = () => false, keyGenerator = personKey) =>
  tries(10, { skip, keyGenerator });

/** Each asks this computer for a little memory. */
const fewAsks = () => tries(30, { keyGenerator: addressOf, skipSuccessfulRequests: false });

/** From one address, whatever names are tried: more than a shop's people mistype, and no way to try many. */
const manyTries = () => tries(100, { keyGenerator: addressOf });

/** Routes for which nobody has to be signed in. */
const anyonesPaths = Object.values(routes)
  .filter((route) => route.access === 'anyone')
  .map(({ path }) => new RegExp(`^${path.replaceAll(/:\w+/g, '[^/]+')}$`));

/** What both doors have: only the names under which this computer is known are answered, and browsers are told to be strict. */
function newApp(network: Network): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', network.believesProxy);
  app.use((request, _response, next) => {
    next(
      network.isOwn(request.headers.host ?? '') ? undefined : new Failure('request-not-trusted'),
    );
  });
  app.use(
    helmet({
      // Said below, where there is TLS.
      strictTransportSecurity: false,
      contentSecurityPolicy: {
        directives: {
          'upgrade-insecure-requests': null,
          'style-src': ["'self'", "'unsafe-inline'"],
          // The solver of move plans is WebAssembly, in a worker.
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
        },
      },
    }),
  );
  app.use((request, response, next) => {
    if (request.secure) response.setHeader('strict-transport-security', 'max-age=31536000');
    next();
  });
  app.use('/api', (_request, response, next) => {
    response.setHeader('cache-control', 'no-store');
    next();
  });
  return app;
}

/** The last word of both doors: what went wrong, as everything says it. */
function answerErrors(app: Express, log: Log): void {
  app.use(((error: unknown, request, response, next) => {
    if (response.headersSent) return next(error);
    const found = problemOf(
      isBadJson(error) ? new Failure('input-not-valid') : databaseFailure(error),
    );
    if (found.code === 'unexpected') {
      log.error({ method: request.method, error: describeError(error) }, 'unexpected');
    }
    response
      .status(statusOf[found.code] ?? 409)
      .json({ ...found, ...(error instanceof InputFailure ? { fields: error.fields } : {}) });
  }) satisfies ErrorRequestHandler);
}

/** The customer’s door: the page on which they type a password, and nothing else. */
export function makeDeskApp(shop: Shop, log: Log): Express {
  const app = newApp(shop.network);
  app.use('/api', sameOrigin, cookieParser(), readSession(shop.db));
  app.use('/api', express.json({ limit: '64kb' }));
  app.use('/api/desk', fewTries());
  customerDeskRoutes({ answer: answering(app, shop, log), shop });
  deskSiteRoutes(app);
  app.use(() => {
    throw new Failure('not-found');
  });
  answerErrors(app, log);
  return app;
}

export function makeApp(
  shop: Shop,
  regular: RegularWorks,
  care: Care,
  saves: Saves,
  live: Live,
  relay: Relay,
  config: Config,
  log: Log,
): Express {
  const { db, bench } = shop;
  const app = newApp(shop.network);
  app.get('/healthz', async (_request, response) => {
    await db.execute(sql`select 1`);
    response.json({ ok: true });
  });
  app.use('/api', sameOrigin, cookieParser(), readSession(db));
  // Whoever is not signed in is refused before anything that they sent is read.
  app.use('/api', (request, _response, next) => {
    const isForAnyone = anyonesPaths.some((path) => path.test(`/api${request.path}`));
    next(isForAnyone || currentSession(request) ? undefined : new Failure('not-signed-in'));
  });
  const all = Object.values(routes);
  // A choice of single items is long; everything else is not.
  app.post(
    all.filter(({ isLong }) => isLong).map(({ path }) => path),
    express.json({ limit: '8mb' }),
  );
  app.use('/api', express.json({ limit: '64kb' }));

  app.post(routes.signIn.path, fewTries(undefined, signInKey), manyTries());
  app.post(routes.beginShop.path, fewTries());
  // A PIN is short: few from one computer, beside what its holder’s own count allows.
  app.post([routes.takeOver.path, routes.passkeySignIn.path], fewTries(undefined, addressOf));
  app.post(routes.passkeyAsk.path, fewAsks());
  app.post(
    all.filter(({ triesPassword }) => triesPassword).map(({ path }) => path),
    // Who is not signed in tries no password: they are refused for that. Nor does who begins a new archive.
    fewTries(beginsArchive),
  );

  app.get(EVENTS_PATH, async (request, response) => {
    allowed(request, 'see');
    // Open before anything is read: what is told meanwhile is heard.
    await live.listen(request, response, (since) => relay.since(since));
    live.tellOne(response, { type: 'bench', bench: await benchView(db, bench) });
  });
  const answer = answering(app, shop, log);
  for (const subject of subjects)
    subject({ app, answer, shop, regular, care, saves, live, relay, config });
  answer(routes.openApi, () => openApiDocument());
  app.use('/api', () => {
    throw new Failure('not-found');
  });

  siteRoutes(app);

  answerErrors(app, log);
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
