import { open } from 'node:fs/promises';
import { tell } from '../disk/medium.js';
import type { Contents } from './store.js';

/** Writes a new file and syncs it. @throws the system's error: half of it may be there then */
export async function writeWhole(path: string, contents: Contents): Promise<void> {
  const pieces =
    typeof contents === 'string' || contents instanceof Uint8Array
      ? [Buffer.from(contents)]
      : contents;
  const file = await open(path, 'wx', 0o600);
  try {
    tell(() => ({ do: 'create', path }));
    let at = 0;
    for await (const piece of pieces) {
      await file.writeFile(piece);
      const from = at;
      tell(() => ({ do: 'write', path, at: from, bytes: Buffer.from(piece) }));
      at += piece.length;
    }
    await file.datasync();
    tell(() => ({ do: 'sync', path }));
  } finally {
    await file.close();
  }
}
