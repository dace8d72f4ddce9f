// @ts-check
import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';

/** Below what Linux hands out by itself: a port from there can be taken by any outgoing connection a moment later. */
const FIRST = 20_000;
const BLOCKS = 120;
const IN_BLOCK = 100;

/** @type {Promise<number> | undefined} */
let block;
let last = -1;

/**
 * Each process has a block of ports to itself: between being found free here and being listened on, which takes a product
 * seconds, a port is found by nobody else.
 * @returns {Promise<number>} a port of 127.0.0.1 that nobody has
 */
export async function freePort() {
  const first = await (block ??= ownBlock());
  for (;;) {
    last = (last + 1) % IN_BLOCK;
    const port = first + last;
    if (await isFree(port)) return port;
  }
}

/** A name of this computer (unix(7), abstract) says whose block it is, for as long as that process runs. */
async function ownBlock() {
  for (;;) {
    const first = FIRST + IN_BLOCK * randomInt(BLOCKS);
    const holder = await listening({ path: `\0bright-cellar-ports-${first}` });
    if (!holder) continue;
    holder.unref();
    return first;
  }
}

/** @param {number} port @returns {Promise<boolean>} */
export async function isFree(port) {
  const probe = await listening({ port, host: '127.0.0.1' });
  if (!probe) return false;
  await new Promise((resolve) => probe.close(resolve));
  return true;
}

/** @param {import('node:net').ListenOptions} where @returns {Promise<import('node:net').Server | null>} null where somebody does already */
function listening(where) {
  return new Promise((resolve) => {
    const server = createServer();
    server.once('error', () => resolve(null));
    server.listen(where, () => resolve(server));
  });
}
