import { once } from 'node:events';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Express } from 'express';

/**
 * Answers on loopback only.
 * @param port 0 for any that is free
 * @returns the port, and what ends it, with all that is still connected
 */
export async function served(
  app: Express,
  port: number,
): Promise<{ port: number; stop: () => Promise<void> }> {
  const server = createServer(app);
  // A caller may ask again just when the usual five seconds are over, and find the door shut on it.
  server.keepAliveTimeout = 65_000;
  // A device takes as long as it takes; clients watch for silence themselves.
  server.requestTimeout = 0;
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  return {
    port: (server.address() as AddressInfo).port,
    async stop() {
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
    },
  };
}
