import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { isOver } from '@bright-cellar/core';
import { OWNED } from '../product.js';
import type { Shop } from './shop.js';

const mount = (...args: string[]) => void execFileSync('mount', args, { stdio: 'pipe' });

const MINUTE_MS = 60_000;

/** Everything that can go wrong in a shop, at a moment that nobody chose, and how it is put right. */
export class Misfortunes {
  readonly #shop: Shop;
  readonly #clockFile: string;
  #clockOffMs = 0;
  /** Undoes what is wrong now. */
  #mend: (() => void) | null = null;
  /** Undoes damage to an archive, once what it led to is over. */
  #heal: (() => void) | null = null;

  constructor(shop: Shop, clockFile: string) {
    this.#shop = shop;
    this.#clockFile = clockFile;
  }

  mend(): void {
    this.#mend?.();
    this.#mend = null;
  }

  heal(): void {
    this.#heal?.();
    this.#heal = null;
  }

  readonly kinds: Record<string, () => unknown> = {
    none: () => undefined,
    killWork: () => this.#signal(this.#shop.product.workPid(), 'SIGKILL'),
    killServer: () => this.#signal(this.#shop.product.serverPid(), 'SIGKILL'),
    killBench: () => this.#signal(this.#shop.product.benchPid(), 'SIGKILL'),
    killDatabase: () => this.#signal(this.#shop.product.databasePid(), 'SIGKILL'),
    pauseWork: () => this.#pause(this.#shop.product.workPid()),
    pauseDatabase: () => this.#pause(this.#shop.product.databasePid()),
    clock: () => {
      this.#clockOffMs += (this.#shop.random(41) - 20) * MINUTE_MS;
      writeFileSync(this.#clockFile, String(this.#clockOffMs));
    },
    cable: () => this.#shop.product.press(OWNED, { do: 'pull-cable' }),
    cutBox: () => this.#shop.box.cut(),
    lock: () => this.#shop.product.press(OWNED, { do: 'lock' }),
    stop: async () => {
      for (const { id, state } of await this.#shop.operations()) {
        if (!isOver(state)) await this.#shop.api.post(`/api/operations/${id}/stop`);
      }
    },
    fill: () => {
      const filler = join(this.#shop.rack, '.filler');
      const { bavail, bsize } = statfsSync(this.#shop.rack);
      // First how it goes away again: whatever else is written now may be what does not fit any more.
      this.#mend = () => rmSync(filler, { force: true });
      writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize)));
    },
    readOnly: () => {
      mount('-o', 'remount,ro', this.#shop.rack);
      this.#mend = () => mount('-o', 'remount,rw', this.#shop.rack);
    },
    unmount: () => {
      // The drive goes, and its folder stays.
      const { rack } = this.#shop;
      const aside = asideOf(this.#shop.product.data);
      const below = () => readdirSync(rack, { recursive: true }).sort().join();
      mount('--move', rack, aside);
      const before = below();
      this.#mend = () => {
        const after = below();
        mount('--move', aside, rack);
        if (after !== before) throw new Error(`written where the drive was not: ${after}`);
      };
    },
    flip: () =>
      this.#damage((path) => {
        const bytes = Buffer.from(readFileSync(path));
        const at = this.#shop.random(bytes.length);
        bytes.writeUInt8(bytes.readUInt8(at) ^ (1 << this.#shop.random(8)), at);
        writeFileSync(path, bytes);
      }),
    truncate: () =>
      this.#damage((path) => truncateSync(path, this.#shop.random(statSync(path).size))),
    swap: () => {
      const [one, other] = this.#folders();
      if (!one || !other) return;
      const aside = `${one}.aside`;
      const swap = () => {
        renameSync(one, aside);
        renameSync(other, one);
        renameSync(aside, other);
      };
      swap();
      this.#mend = swap;
    },
  };

  #signal(pid: number | null, signal: NodeJS.Signals): void {
    try {
      if (pid) process.kill(pid, signal);
    } catch {
      // It was gone already.
    }
  }

  #pause(pid: number | null): void {
    this.#signal(pid, 'SIGSTOP');
    this.#mend = () => this.#signal(pid, 'SIGCONT');
  }

  #folders(): string[] {
    return readdirSync(this.#shop.rack)
      .filter((name) => /^\d/.test(name))
      .map((name) => join(this.#shop.rack, name));
  }

  #damage(how: (path: string) => void): void {
    const folder = this.#shop.pick(this.#folders());
    if (!folder) return;
    const files = readdirSync(join(folder, 'data'), { recursive: true })
      .map((name) => join(folder, 'data', String(name)))
      .filter((path) => statSync(path).isFile() && statSync(path).size > 0);
    const file = this.#shop.pick(files);
    if (!file) return;
    const good = readFileSync(file);
    how(file);
    const bad = readFileSync(file);
    // Put right before the next step, unless it was replaced meanwhile: otherwise all that follows is refused.
    this.#heal = () => {
      if (existsSync(file) && readFileSync(file).equals(bad)) writeFileSync(file, good);
    };
  }
}

const asideOf = (data: string): string => join(data, 'aside');

/** Makes a rack a drive of its own: it can fill up, turn read-only and leave. Only root may. @returns what takes it away */
export function mountDrive(rack: string, data: string): () => void {
  const marker = join(rack, '.bright-cellar-rack');
  const kept = readFileSync(marker);
  // The folder that is left when the drive goes is no rack.
  rmSync(marker);
  mkdirSync(asideOf(data));
  mount('-t', 'tmpfs', '-o', 'size=240m,mode=0700', 'tmpfs', rack);
  writeFileSync(marker, kept, { mode: 0o600 });
  return () => {
    for (const folder of [rack, asideOf(data)]) {
      try {
        execFileSync('umount', ['-l', folder], { stdio: 'ignore' });
      } catch {
        // Not mounted.
      }
    }
  };
}
