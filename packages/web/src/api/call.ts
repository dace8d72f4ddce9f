import type {
  ApiProblem,
  BodyInputOf,
  ParamsInputOf,
  QueryInputOf,
  ResponseOf,
  Route,
} from '@bright-cellar/contract';
import { problemSchema } from '@bright-cellar/contract';
import { problem } from '@bright-cellar/core';
import type { z } from 'zod';

/** A problem as the server told it, or that there is no server. */
export class ApiFailure extends Error {
  readonly problem: ApiProblem;

  constructor(told: ApiProblem) {
    super(told.what);
    this.name = 'ApiFailure';
    this.problem = told;
  }
}

export function problemFrom(error: unknown): ApiProblem {
  return error instanceof ApiFailure ? error.problem : problem('unexpected');
}

let csrfToken = '';
export function rememberCsrfToken(token: string): void {
  csrfToken = token;
}

export interface Ask<R extends Route> {
  params?: ParamsInputOf<R>;
  query?: QueryInputOf<R>;
  body?: BodyInputOf<R>;
}

/** Answers a call where it is made; throws a problem's failure as the server would tell it. */
export type AnswersHere = (route: Route, ask: Ask<Route>) => Promise<unknown>;
let answersHere: AnswersHere | null = null;
/** From here on no server is asked: the page of a stick has none. */
export function answerHere(answers: AnswersHere): void {
  answersHere = answers;
}

/** Calls one route of the contract. @throws ApiFailure */
export async function call<R extends Route>(route: R, ask: Ask<R> = {}): Promise<ResponseOf<R>> {
  if (answersHere) return (await answersHere(route, ask)) as ResponseOf<R>;
  const params = (ask.params ?? {}) as Record<string, string>;
  const path = route.path.replace(/:([A-Za-z]+)/g, (_, name: string) =>
    encodeURIComponent(params[name] ?? ''),
  );
  const query = ask.query ? `?${new URLSearchParams(ask.query)}` : '';
  return askServer(path + query, route.response as z.ZodType<ResponseOf<R>>, {
    method: route.method,
    headers: { 'content-type': 'application/json' },
    ...(route.method === 'GET' ? {} : { body: JSON.stringify(ask.body ?? {}) }),
  });
}

/** Sends a file as it is, beside the routes of the contract. @throws ApiFailure */
export function sendFile<T>(
  path: string,
  file: Blob,
  type: string,
  answer: z.ZodType<T>,
  more: Record<string, string> = {},
) {
  const headers = { 'content-type': type, ...more };
  return askServer(path, answer, { method: 'POST', headers, body: file });
}

async function askServer<T>(
  path: string,
  shape: z.ZodType<T>,
  { headers, ...init }: Omit<RequestInit, 'headers'> & { headers: Record<string, string> },
): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { ...init, headers: { 'x-csrf-token': csrfToken, ...headers } });
  } catch {
    throw new ApiFailure(
      problem('unexpected', {
        what: 'The server does not answer.',
        safe: 'Work that is running goes on without this screen.',
        next: 'Check that the program runs; then try again.',
      }),
    );
  }
  const answer: unknown = await response.json().catch(() => null);
  if (!response.ok) {
    const told = problemSchema.safeParse(answer);
    throw new ApiFailure(told.success ? told.data : problem('unexpected'));
  }
  const parsed = shape.safeParse(answer);
  // A page from before an update can ask a server from after it.
  if (!parsed.success) throw new ApiFailure(problem('unexpected', { next: 'Reload the page.' }));
  return parsed.data;
}
