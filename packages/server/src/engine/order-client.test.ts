import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { onTestFinished, test, expect } from 'vitest';
import { z } from 'zod';
import { OrderClient } from './order-client.js';
import { OrderServer } from './order-server.js';
import { handled, order } from './orders.js';

const double = order('double', z.object({ n: z.number() }), z.object({ n: z.number() }));

function ownSocket(): string {
  const folder = mkdtempSync(join(tmpdir(), 'cellar-orders-'));
  onTestFinished(() => rmSync(folder, { recursive: true }));
  return join(folder, 'work.sock');
}

function doubling(): OrderServer {
  const server = new OrderServer([handled(double, async ({ n }) => ({ n: 2 * n }))]);
  onTestFinished(() => server.close());
  return server;
}

test('what is asked while the work process starts again is done once it is there', async () => {
  const socket = ownSocket();
  const asked = new OrderClient(socket).ask(double, { n: 21 });
  await sleep(250);
  await doubling().listen(socket);
  expect(await asked).toEqual({ n: 42 });
});

test('one that does not come is said to be away', async () => {
  const asked = new OrderClient(ownSocket(), 200).ask(double, { n: 21 });
  await expect(asked).rejects.toThrow('does not answer');
});

test('what was sent and broken off is not sent again', async () => {
  const socket = ownSocket();
  let calls = 0;
  const rude = createServer((line) => {
    calls += 1;
    line.once('data', () => line.destroy());
  });
  await new Promise<void>((listening) => void rude.listen(socket, listening));
  onTestFinished(() => void rude.close());
  await expect(new OrderClient(socket).ask(double, { n: 21 })).rejects.toThrow('does not answer');
  expect(calls).toBe(1);
});
