import { request, type IncomingMessage } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { Failure, type ProblemCode, problems } from '@bright-cellar/core';
import type { z } from 'zod';
import type { Entry } from '@bright-cellar/device-link';
import {
  changeSchema,
  type changePasswordSchema,
  type discardSchema,
  comparedSchema,
  escrowSchema,
  measuredSchema,
  type ComparedDevice,
  type compareSchema,
  type Measured,
  type openByEscrowSchema,
} from './protocol.js';

/** The server's side of the socket to the work process. */
export class OrderClient {
  readonly #socket: string;

  constructor(socket: string) {
    this.#socket = socket;
  }

  /** @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged`. */
  async tryPassword(folder: string, password: string): Promise<void> {
    await this.#order('/try-password', { folder, password });
  }

  async start(id: string, password: string, packagePassword = ''): Promise<void> {
    await this.#order('/start', { id, password, packagePassword });
  }

  /** @throws Failure `wrong-password`, `archive-in-use`, `archive-damaged`, `rack-full`. */
  async changePassword(order: z.input<typeof changePasswordSchema>): Promise<void> {
    await this.#order('/change-password', order);
  }

  /** What of a device an archive has as it is, and what would be sent. @throws Failure `wrong-password`, `archive-in-use`. */
  async compare(order: z.input<typeof compareSchema>): Promise<ComparedDevice> {
    return comparedSchema.parse(await this.#order('/compare', order));
  }

  /** Reads a few entries of a device and says what they would take on a rack, and how long they took. */
  async measure(device: string, entries: readonly Entry[]): Promise<Measured> {
    return measuredSchema.parse(await this.#order('/measure', { device, entries }));
  }

  /** A new escrow under two phrases. */
  async newEscrow(phrases: readonly [string, string]) {
    return escrowSchema.parse(await this.#order('/new-escrow', { phrases }));
  }

  /** Another password for an archive, by escrow. @throws Failure `wrong-password`, `archive-in-use`. */
  async openByEscrow(order: z.input<typeof openByEscrowSchema>): Promise<void> {
    await this.#order('/open-by-escrow', order);
  }

  /** Takes the shop's key out of a copy. @throws Failure `archive-in-use`, `rack-not-here`, `archive-not-here`. */
  async withdrawEscrow(copyId: string): Promise<void> {
    await this.#order('/withdraw-escrow', { copyId });
  }

  /** Lets running work wait, or go on. */
  async pause(id: string, paused: boolean): Promise<void> {
    await this.#order('/pause', { id, paused });
  }

  /** Gives up a backup that was cut off. @throws Failure `archive-in-use`. */
  async discard(order: z.input<typeof discardSchema>): Promise<void> {
    await this.#order('/discard', order);
  }

  async stop(id: string): Promise<void> {
    await this.#order('/stop', { id });
  }

  /** Calls back with each operation that changed, until aborted; `reconnected` whenever some may have been missed. */
  async watch(
    on: { changed(operation: string): void; reconnected(): void },
    signal: AbortSignal,
  ): Promise<void> {
    while (!signal.aborted) {
      try {
        const response = await this.#send('GET', '/changes', null, signal);
        on.reconnected();
        let rest = '';
        for await (const piece of response as AsyncIterable<Buffer>) {
          const lines = (rest + piece.toString('utf8')).split('\n');
          rest = lines.pop() ?? '';
          for (const line of lines) on.changed(changeSchema.parse(JSON.parse(line)).operation);
        }
      } catch {
        // The work process is not there: it is started again by whoever started it.
      }
      await sleep(500, undefined, { signal }).catch(() => undefined);
    }
  }

  async #order(path: string, body: object): Promise<unknown> {
    let response: IncomingMessage;
    let text = '';
    try {
      response = await this.#send('POST', path, JSON.stringify(body));
      for await (const piece of response as AsyncIterable<Buffer>) text += piece.toString('utf8');
    } catch (error) {
      throw new Failure(
        'unexpected',
        {
          what: 'The process that does the long work does not answer.',
          safe: 'What it had taken on before stands under “Work now” and goes on or can go on.',
          next: 'Look there, then try again in a few seconds.',
        },
        { cause: error },
      );
    }
    if (response.statusCode === 200) return JSON.parse(text);
    const { code, ...sentences } = JSON.parse(text) as {
      code?: string;
      what?: string;
      safe?: string;
      next?: string;
    };
    throw new Failure(code && code in problems ? (code as ProblemCode) : 'unexpected', sentences);
  }

  #send(
    method: string,
    path: string,
    body: string | null,
    signal?: AbortSignal,
  ): Promise<IncomingMessage> {
    return new Promise((resolve, reject) => {
      const sent = request(
        {
          socketPath: this.#socket,
          method,
          path,
          ...(signal ? { signal } : {}),
          headers:
            body === null
              ? {}
              : { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body) },
        },
        resolve,
      );
      sent.on('error', reject);
      sent.end(body ?? undefined);
    });
  }
}
