import type { LiveEvent } from '@bright-cellar/contract';
import type { Request, Response } from 'express';
import { checkedSession } from './session.js';

const ALIVE_MS = 10_000;

/** Every browser that listens, and what is told to all of them (Server-Sent Events). */
export class Live {
  readonly #listeners = new Map<Response, string>();

  /** Answers the route of events: sends what is told from now on, until the browser goes or its session ends. */
  listen(request: Request, response: Response, first: LiveEvent[]): void {
    const { tokenHash } = checkedSession(request, false);
    response.setHeader('content-type', 'text/event-stream');
    response.setHeader('cache-control', 'no-store');
    response.flushHeaders();
    for (const event of first) send(response, event);
    const alive = setInterval(() => send(response, { type: 'alive' }), ALIVE_MS);
    this.#listeners.set(response, tokenHash);
    response.on('close', () => {
      clearInterval(alive);
      this.#listeners.delete(response);
    });
  }

  tell(event: LiveEvent): void {
    for (const response of this.#listeners.keys()) send(response, event);
  }

  /** Ends everything that one session listens to. */
  endSession(tokenHash: string): void {
    for (const [response, owner] of this.#listeners) {
      if (owner !== tokenHash) continue;
      send(response, { type: 'signed-out' });
      response.end();
    }
  }

  close(): void {
    for (const response of this.#listeners.keys()) response.end();
  }
}

function send(response: Response, event: LiveEvent): void {
  response.write(`data: ${JSON.stringify(event)}\n\n`);
}
