import { createHash } from 'node:crypto';
import { readdir, realpath, stat } from 'node:fs/promises';
import { isAbsolute, join, relative } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { unreadSerial, type MountedFolder } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import type { Berths } from './berths.js';
import { MountedStorage } from './mounted-storage.js';

const LOOK_EVERY_MS = 1_000;
/** A medium that does not answer for so long is gone, whatever the system still says: a share whose server is away. */
const SILENT_MS = 10_000;
/** Where the system tells file systems by their own identities. */
const BY_UUID = '/dev/disk/by-uuid';

/** A folder and the file system that it is on, as they are mounted now. */
interface Medium {
  /** The same as long as it stays mounted. */
  now: string;
  /** The file system's own identity; null where it has none. */
  uuid: string | null;
}

/**
 * Storage that is mounted on this computer and was put on the bench as a device. It is not written down anywhere: after the
 * adapter started again, something else may be mounted in the same place, and it is for people to say what.
 */
export class Mounts {
  readonly #berths: Berths;
  readonly #connected = new Map<string, { device: MountedStorage; medium: Medium }>();
  readonly #look: (folder: string) => Promise<Medium | null>;
  readonly #silentMs: number;
  readonly #ended = new AbortController();
  #connecting: Promise<unknown> = Promise.resolve();

  /** Folders in which storage appears when it is mounted; what lies elsewhere is not taken. */
  places: readonly string[] = [];

  /** @param by how a medium is looked at, and after how much silence it is gone, in ms: for tests */
  constructor(berths: Berths, { look = mediumOf, silentMs = SILENT_MS } = {}) {
    this.#berths = berths;
    this.#look = look;
    this.#silentMs = silentMs;
    void this.#watch(this.#ended.signal);
  }

  end(): void {
    this.#ended.abort();
  }

  /** @throws LinkError `not-valid`, `busy` */
  connect(storage: MountedFolder): Promise<MountedStorage> {
    // One after the other: two at once would be given the same berth.
    const connected = this.#connecting.then(() => this.#connect(storage));
    this.#connecting = connected.catch(() => undefined);
    return connected;
  }

  async #connect(storage: MountedFolder): Promise<MountedStorage> {
    const folder = await this.#placed(storage.folder);
    const medium = await this.#within(this.#look(folder));
    if (!medium) throw new LinkError('not-valid');
    const serial = storage.serial ?? unreadSerial(unique(folder, medium));
    for (const { device } of this.#connected.values()) {
      const isIn = isWithin(folder, device.folder) || isWithin(device.folder, folder);
      if (isIn || device.serial === serial) throw new LinkError('busy');
    }
    const berth = this.#berths.free();
    if (berth === null) throw new LinkError('busy');
    const device = new MountedStorage({ ...storage, folder, serial }, berth, (what) =>
      this.#berths.tell(device, what),
    );
    await device.lookAgain();
    this.#connected.set(device.id, { device, medium });
    this.#berths.devices.set(device.id, device);
    this.#berths.tell(device, 'arrived');
    return device;
  }

  /** Takes one off the bench. @throws LinkError `not-capable` where it is none of these, `busy` */
  letGo(id: string): void {
    const device = this.#connected.get(id)?.device;
    if (!device) throw new LinkError('not-capable');
    if (device.facts().activity !== 'idle') throw new LinkError('busy');
    this.#remove(device);
  }

  #remove(device: MountedStorage): void {
    this.#connected.delete(device.id);
    device.leave();
    this.#berths.devices.delete(device.id);
  }

  /** What was unmounted, or gave its place to something else, is gone. */
  async #watch(signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      await sleep(LOOK_EVERY_MS, undefined, { signal, ref: false }).catch(() => undefined);
      // Beside each other: one that hangs holds up no other.
      await Promise.all(
        [...this.#connected.values()].map(async ({ device, medium }) => {
          const now = await this.#within(this.#look(device.folder));
          if (now?.now !== medium.now && this.#connected.has(device.id)) this.#remove(device);
        }),
      );
    }
  }

  /** What is found in time; null where nothing is. */
  async #within(looking: Promise<Medium | null>): Promise<Medium | null> {
    const late = new AbortController();
    const { signal } = late;
    const silent = sleep(this.#silentMs, null, { signal, ref: false }).catch(() => null);
    return Promise.race([looking, silent]).finally(() => late.abort());
  }

  /** A folder below a place for them, as it really lies there. @throws LinkError `not-valid` */
  async #placed(wanted: string): Promise<string> {
    const folder = await realpath(wanted).catch(() => null);
    if (!isAbsolute(wanted) || folder === null) throw new LinkError('not-valid');
    for (const place of this.places) {
      const real = await realpath(place.replace(/\/\*$/, '')).catch(() => null);
      if (real !== null && real !== folder && isWithin(folder, real)) return folder;
    }
    throw new LinkError('not-valid');
  }
}

/** What tells storage whose device has no serial from any other: the same when the same medium is mounted there again. */
const unique = (folder: string, { uuid, now }: Medium): string =>
  createHash('sha256')
    .update(`${uuid ?? now} ${folder}`)
    .digest('hex')
    .slice(0, 16);

/** The folder there now, and the medium that it is on; null where none is. */
export async function mediumOf(folder: string): Promise<Medium | null> {
  const info = await stat(folder).catch(() => null);
  if (!info?.isDirectory()) return null;
  return { now: `${info.dev}-${info.ino}`, uuid: await uuidOf(info.dev) };
}

async function uuidOf(dev: number): Promise<string | null> {
  for (const uuid of await readdir(BY_UUID).catch(() => [])) {
    if ((await stat(join(BY_UUID, uuid)).catch(() => null))?.rdev === dev) return uuid;
  }
  return null;
}

function isWithin(path: string, folder: string): boolean {
  const way = relative(folder, path);
  return way === '' || (!way.startsWith('..') && !isAbsolute(way));
}
