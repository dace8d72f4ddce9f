import type { Change, LiveEvent } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import type { Request, Response } from 'express';
import { checkedSession } from './session.js';

const ALIVE_MS = 10_000;
/** Tabs of one session, and of the whole shop: each holds a connection open. */
const STREAMS_A_SESSION = 12;
const STREAMS_MAX = 240;

/** Every browser that listens, and what is told to all of them (Server-Sent Events). */
export class Live {
  readonly #listeners = new Map<Response, string>();
  readonly #good: (tokenHashes: string[]) => Promise<Set<string>>;

  /** @param good tells which of some sessions have not ended */
  constructor(good: (tokenHashes: string[]) => Promise<Set<string>>) {
    this.#good = good;
    setInterval(() => {
      this.#endStale().catch(() => undefined);
    }, ALIVE_MS).unref();
  }

  /** A stream ends with its session, however that ended. */
  async #endStale(): Promise<void> {
    const owners = [...new Set(this.#listeners.values())];
    const good = await this.#good(owners);
    for (const owner of owners) if (!good.has(owner)) this.endSession(owner);
  }

  /**
   * Answers the route of events: sends what is told from now on, until the browser goes or its session ends.
   * @param missed what changed since the change that it was told last
   */
  async listen(
    request: Request,
    response: Response,
    missed: (since: number) => Promise<Change[] | null>,
  ): Promise<void> {
    const { tokenHash } = checkedSession(request, false);
    const own = [...this.#listeners.values()].filter((owner) => owner === tokenHash).length;
    if (own >= STREAMS_A_SESSION || this.#listeners.size >= STREAMS_MAX) {
      throw new Failure('too-many-tries', { what: 'Too many windows are open at once.' });
    }
    response.setHeader('content-type', 'text/event-stream');
    response.setHeader('cache-control', 'no-store');
    response.flushHeaders();
    const alive = setInterval(() => send(response, { type: 'alive' }), ALIVE_MS);
    this.#listeners.set(response, tokenHash);
    response.on('close', () => {
      clearInterval(alive);
      this.#listeners.delete(response);
    });
    // Heard from now on, so that nothing is lost between what was missed and what comes.
    const last = Number(request.headers['last-event-id']);
    if (!Number.isSafeInteger(last) || last < 0) return;
    const changes = await missed(last).catch(() => null);
    if (response.writableEnded) return;
    if (changes === null) send(response, { type: 'everything' });
    else if (changes.length > 0) send(response, { type: 'changed', changes });
  }

  /** @param upTo which changes are told with it: a browser that comes back says so */
  tell(event: LiveEvent, upTo?: number): void {
    for (const response of this.#listeners.keys()) send(response, event, upTo);
  }

  /** Tells only one of them. */
  tellOne(response: Response, event: LiveEvent): void {
    if (this.#listeners.has(response)) send(response, event);
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

function send(response: Response, event: LiveEvent, id?: number): void {
  const head = id === undefined ? '' : `id: ${id}\n`;
  response.write(`${head}data: ${JSON.stringify(event)}\n\n`);
}
