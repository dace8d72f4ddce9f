import { z } from 'zod';
import type { Access, Route } from '../route.js';

/** A route that takes none of its parts takes this. */
export const nothing = z.object({});

type Parts = Partial<{
  params: z.ZodType;
  query: z.ZodType;
  body: z.ZodType;
  /** It tries a password: wrong ones are few. */
  triesPassword: true;
  /** It carries a choice of single items. */
  isLong: true;
}>;

type Given<P extends Parts, Part extends 'params' | 'query' | 'body'> = P[Part] extends z.ZodType
  ? P[Part]
  : typeof nothing;

/** One route, with nothing where nothing is said. */
export function route<const P extends Parts, R extends z.ZodType, const A extends Access>(
  method: Route['method'],
  path: string,
  access: A,
  summary: string,
  parts: P,
  response: R,
) {
  return {
    method,
    path,
    summary,
    access,
    params: (parts.params ?? nothing) as Given<P, 'params'>,
    query: (parts.query ?? nothing) as Given<P, 'query'>,
    body: (parts.body ?? nothing) as Given<P, 'body'>,
    response,
    triesPassword: parts.triesPassword ?? false,
    isLong: parts.isLong ?? false,
  };
}
