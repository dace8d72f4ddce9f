import {
  promisedBy,
  routes,
  type BodyOf,
  type ParamsOf,
  type QueryOf,
  type ResponseOf,
  type Route,
} from '@bright-cellar/contract';
import { Failure, type AuditAction, type Permission } from '@bright-cellar/core';
import type { Express, Request, Response } from 'express';
import { ZodError } from 'zod';
import { mustBeAllowed, type Person } from '../kernel/actor.js';
import type { Log } from '../log.js';
import type { Context, Shop } from '../shop.js';
import { actorOf, checkedSession, mustBeOpen } from './session.js';

export interface Asked<R extends Route> {
  params: ParamsOf<R>;
  query: QueryOf<R>;
  body: BodyOf<R>;
  request: Request;
  response: Response;
}

type Handler<R extends Route> = (
  asked: Asked<R> & (R['access'] extends 'anyone' ? object : { context: Context }),
) => Promise<ResponseOf<R>> | ResponseOf<R>;

/** A form that cannot be used as it is, with what is wrong with which field. */
export class InputFailure extends Failure {
  readonly fields: Record<string, string>;

  constructor(error: ZodError) {
    super('input-not-valid');
    this.fields = Object.fromEntries(
      error.issues.map((issue) => [issue.path.join('.'), issue.message]),
    );
  }
}

/** Logged where a route did not leave on record what the contract says; no test may see it. */
export const LEFT_NOTHING = 'nothing was left on record';

/** What a locked screen still asks for. */
const evenLocked: ReadonlySet<Route> = new Set<Route>([
  ...[routes.unlockSession, routes.lockSession, routes.signOut],
]);

export type Answer = <R extends Route>(route: R, handler: Handler<R>) => void;

/**
 * Answers routes of the contract: who asks, whether the request comes from our own page, and whether they may is checked
 * first; then everything that was sent is parsed; then the handler works with what is known to be right, and what it
 * answers is held to the contract too.
 */
export const answering =
  (app: Express, shop: Shop, log: Log): Answer =>
  (route, handler) => {
    const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
    app[method](route.path, async (request: Request, response: Response) => {
      const left = new Set<AuditAction>();
      const noted = (action: AuditAction): void => void left.add(action);
      let context: Context | null = null;
      if (route.access !== 'anyone') {
        const session = checkedSession(request, route.method !== 'GET');
        if (!evenLocked.has(route)) mustBeOpen(session, route.access);
        context = { ...shop, noted, actor: actorOf(session, request) };
        mustBeAllowed(context.actor, route.access);
      }
      const asked = parsed(route, request, response);
      const answer = await handler({ ...asked, context } as unknown as Parameters<
        typeof handler
      >[0]);
      const promised = promisedBy(route);
      if (context && promised.length > 0 && !promised.some((action) => left.has(action))) {
        log.error({ path: route.path, promised }, LEFT_NOTHING);
      }
      response.json(route.response.parse(answer));
    });
  };

/**
 * Who asks for what is no answer of the contract: a paper, a file.
 * @throws Failure `not-signed-in`, `not-allowed`
 */
export function allowed(request: Request, permission: Permission): Person {
  const session = checkedSession(request, false);
  mustBeOpen(session, permission);
  const actor = actorOf(session, request);
  mustBeAllowed(actor, permission);
  return actor;
}

function parsed<R extends Route>(route: R, request: Request, response: Response): Asked<R> {
  try {
    return {
      params: route.params.parse(request.params) as ParamsOf<R>,
      query: route.query.parse(request.query) as QueryOf<R>,
      body: route.body.parse(request.body ?? {}) as BodyOf<R>,
      request,
      response,
    };
  } catch (error) {
    throw error instanceof ZodError ? new InputFailure(error) : error;
  }
}
