import { createServer } from 'node:net';

/** A port on which nobody listens. */
export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const address = server.address();
  await new Promise((done) => server.close(done));
  return typeof address === 'object' && address ? address.port : 0;
}
