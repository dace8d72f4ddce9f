import type { BodyOf, ParamsOf, QueryOf, ResponseOf, Route } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import type { Express, Request, Response } from 'express';
import { ZodError } from 'zod';
import { mustBeAllowed } from '../kernel/actor.js';
import type { Context, Shop } from '../shop.js';
import { actorOf, checkedSession } from './session.js';

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

export type Answer = <R extends Route>(route: R, handler: Handler<R>) => void;

/**
 * Answers routes of the contract: who asks, whether the request comes from our own page, and whether they may is checked
 * first; then everything that was sent is parsed; then the handler works with what is known to be right, and what it
 * answers is held to the contract too.
 */
export const answering =
  (app: Express, shop: Shop): Answer =>
  (route, handler) => {
    const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
    app[method](route.path, async (request: Request, response: Response) => {
      let context: Context | null = null;
      if (route.access !== 'anyone') {
        const session = checkedSession(request, route.method !== 'GET');
        context = { ...shop, actor: actorOf(session, request) };
        mustBeAllowed(context.actor, route.access);
      }
      const asked = parsed(route, request, response);
      const answer = await handler({ ...asked, context } as unknown as Parameters<
        typeof handler
      >[0]);
      response.json(route.response.parse(answer));
    });
  };

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
