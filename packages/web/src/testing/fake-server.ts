import type { BodyOf, ResponseOf, Route } from '@bright-cellar/contract';
import { problem, type Problem, type ProblemCode } from '@bright-cellar/core';
import { vi } from 'vitest';

/** What stands in for an answer when the server refuses. */
export class Refusal {
  readonly problem: Problem;
  constructor(code: ProblemCode, more: Partial<Problem> = {}) {
    this.problem = problem(code, more);
  }
}

/** What either side said that the contract does not know, since a test began. */
export const contractBreaks: string[] = [];

interface Answer {
  method: string;
  path: RegExp;
  /** What was asked must be as the contract says, and so must the answer. */
  answer: (body: unknown) => unknown;
}

/**
 * The server as a screen sees it: answers the routes that a test names, holds both sides to the contract, and
 * remembers what it was asked. Any other question is refused as not here.
 */
export class FakeServer {
  readonly asked: { method: string; path: string; body: unknown }[] = [];
  #answers: Answer[] = [];

  constructor() {
    vi.stubGlobal('fetch', (path: string, init: RequestInit) => this.#fetch(path, init));
  }

  /** From now on this route is answered so. */
  answers<R extends Route>(
    route: R,
    answer: ResponseOf<R> | Refusal | ((body: BodyOf<R>) => ResponseOf<R> | Refusal),
  ): this {
    this.#answers.unshift({
      method: route.method,
      path: new RegExp(`^${route.path.replace(/:[A-Za-z]+/g, '[^/?]+')}(\\?.*)?$`),
      answer: (sent) => {
        const body = route.body.parse(sent ?? {}) as BodyOf<R>;
        const answered: unknown =
          typeof answer === 'function' ? (answer as (body: BodyOf<R>) => unknown)(body) : answer;
        return answered instanceof Refusal ? answered : route.response.parse(answered);
      },
    });
    return this;
  }

  /** What was sent to a route, the newest last. */
  sentTo<R extends Route>(route: R): BodyOf<R>[] {
    const path = new RegExp(`^${route.path.replace(/:[A-Za-z]+/g, '[^/?]+')}$`);
    return this.asked
      .filter((a) => a.method === route.method && path.test(a.path))
      .map((a) => a.body as BodyOf<R>);
  }

  async #fetch(path: string, init: RequestInit): Promise<Response> {
    const body: unknown = typeof init.body === 'string' ? JSON.parse(init.body) : undefined;
    const method = init.method ?? 'GET';
    this.asked.push({ method, path, body });
    const found = this.#answers.find((a) => a.method === method && a.path.test(path));
    let answered: unknown = new Refusal('not-found');
    try {
      if (found) answered = found.answer(body);
    } catch (error) {
      // The screen would take it for a server that is away: the test must hear of it.
      contractBreaks.push(`${method} ${path}: ${String(error)}`);
      throw error;
    }
    return answered instanceof Refusal
      ? new Response(JSON.stringify(answered.problem), { status: 409 })
      : new Response(JSON.stringify(answered));
  }
}
