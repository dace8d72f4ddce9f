// @ts-check
import { randomInt } from 'node:crypto';
import { createServer } from 'node:net';

/** Below what Linux hands out by itself: a port from there can be taken by any outgoing connection a moment later. */
const FIRST = 20_000;
const LAST = 32_000;

/** @returns {Promise<number>} a port of 127.0.0.1 that nobody has; at random, so that two that look at once rarely find the same */
export async function freePort() {
  for (;;) {
    const port = randomInt(FIRST, LAST);
    if (await isFree(port)) return port;
  }
}

/** @param {number} port @returns {Promise<boolean>} */
export function isFree(port) {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}
