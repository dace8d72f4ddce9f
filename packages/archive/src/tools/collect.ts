import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

setFlagsFromString('--expose-gc');
const gc = runInNewContext('gc') as (options?: { type: 'minor' }) => void;

/** Synchronous work on more contents than this takes a turn of the event loop in between. */
export const COLLECT_EVERY_BYTES = 8 * 2 ** 20;
/** A whole collection, which takes some twenty milliseconds, is made for this much that only it gives back. */
const WHOLE_BYTES = 24 * 2 ** 20;
/** What OpenSSL keeps for one cipher until its object is collected, about. */
export const CONTEXT_BYTES = 2 ** 11;
let handedOut = 0;

/**
 * Says that memory was handed out which the collector does not see and only a whole collection gives back:
 * bytes of native packages, contexts of Node's ciphers.
 */
export function noteHandedOut(bytes: number): void {
  handedOut += bytes;
}

/** Gives back all that is not held any more, after work that leaves much behind; takes some hundred milliseconds where much is held. */
export async function collectAll(): Promise<void> {
  handedOut = 0;
  gc();
  await new Promise((done) => setImmediate(done));
}

/**
 * Gives back the memory that was handed out for the last pieces of contents: the collector sees only the
 * small objects that stand for it, and would let hundreds of megabytes pile up. Bytes that Node's ciphers
 * return are given back by a minor collection. What {@link noteHandedOut} counts takes a whole one and a turn
 * of the event loop, which never comes by itself while messages wait. Memory that is used again at once is
 * faster too, since it is still near the core.
 */
export async function collectGarbage(): Promise<void> {
  if (handedOut >= WHOLE_BYTES) {
    handedOut = 0;
    gc();
  } else gc({ type: 'minor' });
  await new Promise((done) => setImmediate(done));
}
