import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { piecesOf } from './read.js';
import type { Room, Store } from './store.js';

/** What a place turned out to be able to do. */
export interface TriedStore {
  room: Room;
  /** Bytes a second, to the medium and back from it. */
  writeRate: number;
  readRate: number;
  /** What was read back is what was written. */
  isSound: boolean;
  /** Never over another: what keeps two of us from writing the same. */
  keepsFirst: boolean;
}

const TRY_BYTES = 64 * 2 ** 20;
const PIECE_BYTES = 2 ** 20;

/**
 * Tries a place as archives will use it: a file is written and synced, renamed in its place, read back from the medium,
 * compared, and taken away again. Takes a few seconds. @param bytes to write @throws the store's error
 */
export async function tryStore(store: Store, bytes = TRY_BYTES): Promise<TriedStore> {
  const room = await store.room();
  const name = `.try-${randomUUID()}`;
  const written = createHash('sha512');
  const read = createHash('sha512');
  // What does not shrink, so that no medium is faster than it is.
  const piece = randomBytes(PIECE_BYTES);
  const pieces = async function* () {
    for (let at = 0; at < bytes; at += PIECE_BYTES) {
      piece.writeUInt32LE(at / PIECE_BYTES);
      const some = piece.subarray(0, Math.min(PIECE_BYTES, bytes - at));
      written.update(some);
      yield some;
    }
  };
  try {
    const writing = performance.now();
    await store.put(name, pieces(), 'over');
    const reading = performance.now();
    for await (const some of piecesOf(store, name, { from: 'medium' })) read.update(some);
    const end = performance.now();
    return {
      room,
      writeRate: (bytes / (reading - writing)) * 1000,
      readRate: (bytes / (end - reading)) * 1000,
      isSound: written.digest().equals(read.digest()),
      keepsFirst: await store.put(name, '', 'if-absent').then(
        () => false,
        () => true,
      ),
    };
  } finally {
    await store.remove(name);
  }
}
