import type { BodyOf, ParamsOf, QueryOf, ResponseOf, Route } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import type { Express, Request, Response } from 'express';
import { ZodError } from 'zod';
import { checkedSession, type SignedIn } from './session.js';

export interface Asked<R extends Route> {
  params: ParamsOf<R>;
  query: QueryOf<R>;
  body: BodyOf<R>;
  request: Request;
  response: Response;
}

type Handler<R extends Route> = (
  asked: Asked<R> & (R['access'] extends 'anyone' ? object : { by: SignedIn }),
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

/**
 * Answers one route of the contract: who asks and whether the request comes from our own page is
 * checked first, then everything that was sent is parsed, then the handler works with what is known to be right.
 */
export function answer<R extends Route>(app: Express, route: R, handler: Handler<R>): void {
  const method = route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete';
  app[method](route.path, async (request: Request, response: Response) => {
    const by = route.access === 'anyone' ? null : checkedSession(request, route.method !== 'GET');
    let asked;
    try {
      asked = {
        params: route.params.parse(request.params) as ParamsOf<R>,
        query: route.query.parse(request.query) as QueryOf<R>,
        body: route.body.parse(request.body ?? {}) as BodyOf<R>,
        request,
        response,
      };
    } catch (error) {
      throw error instanceof ZodError ? new InputFailure(error) : error;
    }
    const result = await handler({ ...asked, by } as Parameters<Handler<R>>[0]);
    response.json(result);
  });
}
