import { mkdir, readdir, rename } from 'node:fs/promises';
import { join } from 'node:path';

/** A drive that somebody plugs in or pulls. */
export interface Drive {
  name: string;
  plugged: boolean;
}

/**
 * Stand-ins of removable drives: folders that are where drives appear, or in a drawer. Pulled in the middle of whatever is
 * going on, all of it is gone from its place from one moment to the next.
 */
export class Drives {
  readonly #port: string;
  readonly #drawer: string;

  /** @param port the folder in which drives appear @param drawer where those lie that are not plugged in */
  constructor(port: string, drawer: string) {
    this.#port = port;
    this.#drawer = drawer;
  }

  async list(): Promise<Drive[]> {
    const [there, away] = await Promise.all([this.#port, this.#drawer].map(foldersIn));
    return [
      ...(there ?? []).map((name) => ({ name, plugged: true })),
      ...(away ?? []).map((name) => ({ name, plugged: false })),
    ].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
  }

  /** @returns whether there was such a drive, and it was not so already */
  async turn(name: string, plugged: boolean): Promise<boolean> {
    const drive = (await this.list()).find((one) => one.name === name);
    if (!drive || drive.plugged === plugged) return false;
    const [from, to] = plugged ? [this.#drawer, this.#port] : [this.#port, this.#drawer];
    await mkdir(to, { recursive: true });
    await rename(join(from, name), join(to, name));
    return true;
  }
}

async function foldersIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
  return entries.filter((entry) => entry.isDirectory()).map(({ name }) => name);
}
