import { request, type IncomingMessage } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { Failure, type ProblemCode, problems } from '@bright-cellar/core';
import { ConstantBackoff, handleWhen, retry } from 'cockatiel';
import type { z } from 'zod';
import {
  HEAD_OF_STREAM,
  pauseOrder,
  startOrder,
  stopOrder,
  toldSchema,
  type Order,
  type StreamedOrder,
  type Told,
} from './orders.js';

/** A work process that died is started again at once: so long whoever asks for it waits. */
const AWAY_AT_MOST_MS = 5_000;
const ASKED_EVERY_MS = 100;

/** Then nothing was sent: it may be asked anew, whatever it is about. */
const nobodyListens = (error: Error): boolean => 'syscall' in error && error.syscall === 'connect';

/** The server's side of the socket to the work process. */
export class OrderClient {
  readonly #socket: string;
  readonly #awayAtMostMs: number;

  constructor(socket: string, awayAtMostMs = AWAY_AT_MOST_MS) {
    this.#socket = socket;
    this.#awayAtMostMs = awayAtMostMs;
  }

  start = (id: string, held: { password: string; packagePassword: string; fromFolder: string }) =>
    this.ask(startOrder, { id, ...held });
  stop = (id: string) => this.ask(stopOrder, { id });
  /** Lets running work wait, or go on. */
  pause = (id: string, paused: boolean) => this.ask(pauseOrder, { id, paused });

  /** Whether the work process is there. */
  answers(): Promise<boolean> {
    return this.#send('GET', '/alive', null, AbortSignal.timeout(2000)).then(
      (response) => {
        response.resume();
        return true;
      },
      () => false,
    );
  }

  /** Calls back with what the work process tells, until aborted; `reconnected` whenever some may have been missed. */
  async watch(
    on: { told(told: Told): void; reconnected(): void },
    signal: AbortSignal,
  ): Promise<void> {
    while (!signal.aborted) {
      try {
        const response = await this.#send('GET', '/told', null, signal);
        on.reconnected();
        let rest = '';
        for await (const piece of response as AsyncIterable<Buffer>) {
          const lines = (rest + piece.toString('utf8')).split('\n');
          rest = lines.pop() ?? '';
          for (const line of lines) on.told(toldSchema.parse(JSON.parse(line)));
        }
      } catch {
        // The work process is not there: it is started again by whoever started it.
      }
      await sleep(500, undefined, { signal }).catch(() => undefined);
    }
  }

  /** Has something done. @throws Failure as the order says */
  async ask<Asks extends z.ZodType, Answers extends z.ZodType>(
    { name, answers }: Order<Asks, Answers>,
    body: z.input<Asks>,
  ): Promise<z.output<Answers>> {
    const response = await this.#post(name, body);
    if (response.statusCode === 200) return answers.parse(JSON.parse(await textOf(response)));
    throw await failureOf(response);
  }

  /** Has bytes told. Whoever destroys them ends it there too. @throws Failure as the order says */
  async open<Asks extends z.ZodType, Head extends z.ZodType>(
    { name, head }: StreamedOrder<Asks, Head>,
    body: z.input<Asks>,
  ): Promise<{ head: z.output<Head>; bytes: IncomingMessage }> {
    const response = await this.#post(name, body);
    if (response.statusCode !== 200) throw await failureOf(response);
    const text = decodeURIComponent(String(response.headers[HEAD_OF_STREAM]));
    return { head: head.parse(JSON.parse(text)), bytes: response };
  }

  async #post(name: string, body: unknown): Promise<IncomingMessage> {
    const until = performance.now() + this.#awayAtMostMs;
    const mayCome = (error: Error) => nobodyListens(error) && performance.now() < until;
    const backoff = new ConstantBackoff(ASKED_EVERY_MS);
    try {
      return await retry(handleWhen(mayCome), { backoff }).execute(() =>
        this.#send('POST', `/orders/${name}`, JSON.stringify(body)),
      );
    } catch (error) {
      throw gone(error);
    }
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

const gone = (cause: unknown) =>
  new Failure(
    'unexpected',
    {
      what: 'The process that does the long work does not answer.',
      safe: 'What it had taken on before stands under “Work now” and goes on or can go on.',
      next: 'Look there, then try again in a few seconds.',
    },
    { cause },
  );

async function textOf(response: IncomingMessage): Promise<string> {
  let text = '';
  try {
    for await (const piece of response as AsyncIterable<Buffer>) text += piece.toString('utf8');
  } catch (error) {
    throw gone(error);
  }
  return text;
}

async function failureOf(response: IncomingMessage): Promise<Failure> {
  const { code, ...sentences } = JSON.parse(await textOf(response)) as {
    code?: string;
    what?: string;
    safe?: string;
    next?: string;
  };
  return new Failure(code && code in problems ? (code as ProblemCode) : 'unexpected', sentences);
}
