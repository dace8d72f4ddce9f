import { chmod, rm } from 'node:fs/promises';
import { createServer, request, type Server } from 'node:http';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Failure, problemOf } from '@bright-cellar/core';
import express, { type ErrorRequestHandler } from 'express';
import { databaseFailure } from '../database/connect.js';
import { HEAD_OF_STREAM, type Handled, type HandledStream, type Told } from './orders.js';

/** Takes orders from the server, and tells it how far work is and that something was committed. */
export class OrderServer {
  readonly #server: Server;
  readonly #listeners = new Set<(told: Told) => void>();

  constructor(handled: readonly Handled[], streams: readonly HandledStream[] = []) {
    const app = express();
    app.disable('x-powered-by');
    // A choice of single items is long.
    app.use(express.json({ limit: '64mb' }));
    for (const { name, handle } of handled) {
      app.post(`/orders/${name}`, async (request, response) => {
        response.json(await handle(request.body));
      });
    }
    for (const { name, open } of streams) {
      app.post(`/orders/${name}`, async (request, response) => {
        const { head, bytes } = await open(request.body);
        response.setHeader(HEAD_OF_STREAM, encodeURIComponent(JSON.stringify(head)));
        // Whoever hangs up ends it; what fails on the way cuts it off, and is seen there as cut off.
        await pipeline(Readable.from(bytes), response).catch(() => response.destroy());
      });
    }
    app.get('/told', (_request, response) => {
      response.setHeader('content-type', 'application/x-ndjson');
      response.flushHeaders();
      const tell = (told: Told) => response.write(`${JSON.stringify(told)}\n`);
      this.#listeners.add(tell);
      response.on('close', () => this.#listeners.delete(tell));
    });
    app.use(((error: unknown, _request, response, next) => {
      if (response.headersSent) return next(error);
      response.status(409).json(problemOf(databaseFailure(error)));
    }) satisfies ErrorRequestHandler);
    this.#server = createServer(app);
  }

  tell(told: Told): void {
    for (const tell of this.#listeners) tell(told);
  }

  /** @throws Failure when another work process already has this socket. */
  async listen(socket: string): Promise<void> {
    if (await answers(socket)) {
      throw new Failure('already-exists', { what: 'Another work process is already running.' });
    }
    await rm(socket, { force: true });
    await new Promise<void>((resolve, reject) => {
      this.#server.once('error', reject);
      this.#server.listen(socket, resolve);
    });
    await chmod(socket, 0o600);
  }

  async close(): Promise<void> {
    const closed = new Promise((resolve) => this.#server.close(resolve));
    this.#server.closeAllConnections();
    await closed;
  }
}

/** Whether somebody listens: a socket file can outlive its process. */
function answers(socket: string): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = request({ socketPath: socket, path: '/' }, (response) => {
      response.resume();
      resolve(true);
    });
    probe.on('error', () => resolve(false));
    probe.end();
  });
}
