import { createHash } from 'node:crypto';
import { access, cp, mkdir, mkdtemp, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { ContentsSize } from './sizes.js';

interface Owner {
  model: string;
  kind: 'phone' | 'tablet' | 'handset';
}

/**
 * Contents of devices, each made once: tests start a hundred benches with the same devices. The same seed, device and size
 * give the same contents; whoever gives the folder gives another one where the generator may be another.
 */
export class ContentsLibrary {
  readonly #folder: string | null;

  /** @param folder null: everything is made anew */
  constructor(folder: string | null) {
    this.#folder = folder;
  }

  /** Fills a folder, which appears only when it is complete. */
  async fill(folder: string, seed: string, device: Owner, size: ContentsSize): Promise<void> {
    if (!this.#folder) return make(folder, seed, device, size);
    const { model, kind } = device;
    const key = createHash('sha256').update(JSON.stringify([seed, model, kind, size]));
    const kept = join(this.#folder, key.digest('hex').slice(0, 16));
    if (!(await exists(kept))) {
      await mkdir(this.#folder, { recursive: true });
      const mine = await mkdtemp(`${kept}.`);
      await make(join(mine, 'contents'), seed, device, size);
      // Of several that made the same at once, one is enough.
      await rename(join(mine, 'contents'), kept).catch(async (error: unknown) => {
        if (!(await exists(kept))) throw error;
      });
      await rm(mine, { recursive: true, force: true });
    }
    const unfinished = `${folder}.unfinished`;
    await rm(unfinished, { recursive: true, force: true });
    await cp(kept, unfinished, { recursive: true, preserveTimestamps: true });
    await rename(unfinished, folder);
  }
}

/** What draws, plays and prints is loaded only where something is made. */
async function make(...args: [string, string, Owner, ContentsSize]): Promise<void> {
  const { generateContents } = await import('./generate.js');
  await generateContents(...args);
}

const exists = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
