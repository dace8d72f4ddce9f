import { parentPort } from 'node:worker_threads';
import { ArchiveKey } from '../keys/archive-key.js';
import { serveThread } from '../tools/serve-thread.js';
import { ChunkSealer } from './chunk-sealer.js';
import { ChunkSet } from '../tools/chunk-set.js';
import type { FromSealingThread, ToSealingThread } from './sealing.js';

/** A thread that seals: see sealing.ts for what it hears and says. */
const say = (message: FromSealingThread) => parentPort?.postMessage(message);

let known: ChunkSet | null = null;
let sealer: ChunkSealer | null = null;

function hear(message: ToSealingThread): void {
  if (message.type === 'begin') {
    known = new ChunkSet(message.tables);
    sealer = new ChunkSealer(message.folder, ArchiveKey.of(message.key), known, (block) =>
      say({ type: 'pack', block }),
    );
    message.key.fill(0);
  } else if (message.type === 'table') known?.take(message.table);
  else if (message.type === 'seal') {
    const results = message.parts.map((part) => {
      if (!sealer) throw new Error('nothing was begun');
      return sealer.seal(part);
    });
    say({ type: 'sealed', results });
  } else {
    sealer?.closePack();
    say({ type: 'closed' });
  }
}

serveThread<ToSealingThread>({
  hear(message) {
    try {
      hear(message);
    } catch (error) {
      const code = error instanceof Error && 'code' in error ? String(error.code) : '';
      say({ type: 'failed', message: error instanceof Error ? error.message : '', code });
    }
  },
  close: () => sealer?.giveUp(),
});
