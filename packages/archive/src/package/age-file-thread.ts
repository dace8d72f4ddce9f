import { closeSync, fdatasyncSync, openSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { serveThread } from '../tools/serve-thread.js';
import type { AgeFileThreadData, FromAgeFileThread, ToAgeFileThread } from './age-file.js';
import { AgeSealer } from './age-payload.js';

/** A thread that seals and writes an age file: see age-file.ts. */
const { path, beginning, payloadKey } = workerData as AgeFileThreadData;
const BUFFER_BYTES = 2 ** 20;
const say = (message: FromAgeFileThread) => parentPort?.postMessage(message);

const buffer = Buffer.allocUnsafeSlow(BUFFER_BYTES);
let filled = 0;
let fd = -1;
const sealer = new AgeSealer(payloadKey);
payloadKey.fill(0);

function flush(): void {
  for (let at = 0; at < filled;) at += writeSync(fd, buffer, at, filled - at);
  filled = 0;
}

function put(pieces: Uint8Array[]): void {
  for (const piece of pieces) {
    if (filled + piece.length > BUFFER_BYTES) flush();
    buffer.set(piece, filled);
    filled += piece.length;
  }
}

function hear(message: ToAgeFileThread): void {
  if (fd < 0) {
    fd = openSync(path, 'wx', 0o600);
    put([beginning]);
  }
  if (message.type === 'bytes') for (const bytes of message.pieces) put(sealer.seal(bytes));
  else {
    put(sealer.finish());
    flush();
    fdatasyncSync(fd);
    closeSync(fd);
    fd = -1;
  }
  say({ type: 'written' });
}

serveThread<ToAgeFileThread>({
  hear(message) {
    try {
      hear(message);
    } catch (error) {
      say({
        type: 'failed',
        code: error instanceof Error && 'code' in error ? String(error.code) : '',
      });
    }
  },
  close() {
    if (fd >= 0) closeSync(fd);
  },
});
