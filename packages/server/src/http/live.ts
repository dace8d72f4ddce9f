import type { Change, LiveEvent } from '@bright-cellar/contract';
import { Failure } from '@bright-cellar/core';
import { createChannel, createSession, type Session } from 'better-sse';
import type { Request, Response } from 'express';
import { checkedSession, mustBeOpen } from './session.js';

const ALIVE_MS = 10_000;
/** Tabs of one session, and of the whole shop: each holds a connection open. */
const STREAMS_A_SESSION = 12;
const STREAMS_MAX = 240;

/** Whose stream it is, and what it is sent on. */
interface Listener {
  owner: string;
  response: Response;
}

/** Every browser that listens, and what is told to all of them (Server-Sent Events). */
export class Live {
  readonly #channel = createChannel<object, Listener>();
  readonly #good: (tokenHashes: string[]) => Promise<Set<string>>;

  /** @param good tells which of some sessions have not ended */
  constructor(good: (tokenHashes: string[]) => Promise<Set<string>>) {
    this.#good = good;
    setInterval(() => {
      // Said aloud: a browser hears nothing of what only keeps a connection open.
      this.tell({ type: 'alive' });
      this.#endStale().catch(() => undefined);
    }, ALIVE_MS).unref();
  }

  get #owners(): string[] {
    return this.#channel.activeSessions.map(({ state }) => state.owner);
  }

  /** A stream ends with its session, however that ended. */
  async #endStale(): Promise<void> {
    const owners = [...new Set(this.#owners)];
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
    const asking = checkedSession(request, false);
    mustBeOpen(asking, 'see');
    const { tokenHash } = asking;
    const own = this.#owners.filter((owner) => owner === tokenHash).length;
    if (own >= STREAMS_A_SESSION || this.#channel.sessionCount >= STREAMS_MAX) {
      throw new Failure('too-many-tries', { what: 'Too many windows are open at once.' });
    }
    const session = await createSession<Listener>(request, response, {
      ...{ keepAlive: null, retry: null, state: { owner: tokenHash, response } },
    });
    this.#channel.register(session);
    // Heard from now on, so that nothing is lost between what was missed and what comes.
    const said = request.headers['last-event-id'];
    const last = Number(said);
    if (said === undefined || !Number.isSafeInteger(last) || last < 0) return;
    session.lastId = String(last);
    const changes = await missed(last).catch(() => null);
    if (!session.isConnected) return;
    if (changes === null) send(session, { type: 'everything' });
    else if (changes.length > 0) send(session, { type: 'changed', changes });
  }

  /** @param upTo which changes are told with it: a browser that comes back says so */
  tell(event: LiveEvent, upTo?: number): void {
    for (const session of this.#channel.activeSessions) send(session, event, upTo);
  }

  /** Tells only one of them. */
  tellOne(response: Response, event: LiveEvent): void {
    const session = this.#channel.activeSessions.find(({ state }) => state.response === response);
    if (session) send(session, event);
  }

  /** Tells a session nothing any more until it listens anew: it is locked. */
  pause(tokenHash: string): void {
    for (const { state } of this.#channel.activeSessions) {
      if (state.owner === tokenHash) state.response.end();
    }
  }

  /** Ends everything that one session listens to. */
  endSession(tokenHash: string): void {
    for (const session of this.#channel.activeSessions) {
      if (session.state.owner !== tokenHash) continue;
      send(session, { type: 'signed-out' });
      session.state.response.end();
    }
  }

  close(): void {
    for (const { state } of this.#channel.activeSessions) state.response.end();
  }
}

/** What says nothing of how far a browser was told leaves it where it was. */
function send(session: Session<Listener>, event: LiveEvent, upTo?: number): void {
  session.push(event, 'message', upTo === undefined ? session.lastId : String(upTo));
}
