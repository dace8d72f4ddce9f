import { chmod, rm } from 'node:fs/promises';
import { createServer, request, type Server } from 'node:http';
import { discardRun, newEscrow, openEscrow, trySecret, withPassword } from '@bright-cellar/archive';
import { Failure, problemOf } from '@bright-cellar/core';
import express, { type ErrorRequestHandler } from 'express';
import { databaseFailure } from '../database/connect.js';
import {
  changePasswordSchema,
  compareSchema,
  copySchema,
  discardSchema,
  measureSchema,
  newEscrowSchema,
  openByEscrowSchema,
  pauseSchema,
  startSchema,
  stopSchema,
  tryPasswordSchema,
} from './protocol.js';
import type { Runner } from './runner.js';

/** Takes orders from the server and tells it which operations changed. */
export class OrderServer {
  readonly #server: Server;
  readonly #listeners = new Set<(operation: string) => void>();

  constructor(runner: () => Runner) {
    const app = express();
    app.disable('x-powered-by');
    // A choice of single items is long.
    app.use(express.json({ limit: '8mb' }));
    app.post('/try-password', async (request, response) => {
      const { folder, password } = tryPasswordSchema.parse(request.body);
      await trySecret(folder, withPassword(password));
      response.json({});
    });
    app.post('/change-password', async (request, response) => {
      const { password, ...order } = changePasswordSchema.parse(request.body);
      await runner().changePassword(order, withPassword(password));
      response.json({});
    });
    app.post('/compare', async (request, response) => {
      response.json(await runner().compare(compareSchema.parse(request.body)));
    });
    app.post('/new-escrow', async (request, response) => {
      const { recipient, sealed } = await newEscrow(newEscrowSchema.parse(request.body).phrases);
      response.json({ recipient, sealed: Buffer.from(sealed).toString('base64') });
    });
    app.post('/open-by-escrow', async (request, response) => {
      const { sealed, phrases, ...order } = openByEscrowSchema.parse(request.body);
      const identity = await openEscrow(Buffer.from(sealed, 'base64'), phrases);
      await runner().changePassword(order, { kind: 'escrow', identity });
      response.json({});
    });
    app.post('/withdraw-escrow', async (request, response) => {
      await runner().withdrawEscrow(copySchema.parse(request.body).copyId);
      response.json({});
    });
    app.post('/measure', async (request, response) => {
      const { device, entries } = measureSchema.parse(request.body);
      response.json(await runner().measure(device, entries));
    });
    app.post('/pause', (request, response) => {
      const { id, paused } = pauseSchema.parse(request.body);
      runner().pause(id, paused);
      response.json({});
    });
    app.post('/discard', async (request, response) => {
      const { folder, backup } = discardSchema.parse(request.body);
      await discardRun(folder, backup);
      response.json({});
    });
    app.post('/start', async (request, response) => {
      const { id, password, packagePassword } = startSchema.parse(request.body);
      await runner().start(id, password, packagePassword);
      response.json({});
    });
    app.post('/stop', async (request, response) => {
      await runner().stop(stopSchema.parse(request.body).id);
      response.json({});
    });
    app.get('/changes', (_request, response) => {
      response.setHeader('content-type', 'application/x-ndjson');
      response.flushHeaders();
      const tell = (operation: string) => response.write(`${JSON.stringify({ operation })}\n`);
      this.#listeners.add(tell);
      response.on('close', () => this.#listeners.delete(tell));
    });
    app.use(((error: unknown, _request, response, next) => {
      if (response.headersSent) return next(error);
      response.status(409).json(problemOf(databaseFailure(error)));
    }) satisfies ErrorRequestHandler);
    this.#server = createServer(app);
  }

  changed(operation: string): void {
    for (const tell of this.#listeners) tell(operation);
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
