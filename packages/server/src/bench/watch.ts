import { setTimeout as sleep } from 'node:timers/promises';
import {
  Failure,
  linkDeviceSchema,
  type AdapterSite,
  type BenchRules,
  type DeviceFacts,
  type LinkDeviceId,
} from '@bright-cellar/core';
import {
  LinkError,
  type DeviceLink,
  type LinkEvent,
  type OddDevice,
} from '@bright-cellar/device-link';
import type { Database } from '../database/connect.js';
import { describeError, type Log } from '../log.js';
import { rememberDevice } from './remember.js';

const RECONNECT_MS = 1_000;
/** A device that is longer away for its update does not come back by itself. */
const UPDATE_AT_MOST_MS = 45 * 60_000;

/** What is on the bench now, as the link tells it. */
export class BenchWatch {
  readonly link: DeviceLink;
  readonly #db: Database;
  readonly #log: Log;
  readonly #rules: () => Promise<BenchRules>;
  /** What the adapter was told last. */
  #told = '';
  readonly #changed: (deviceIds: readonly string[]) => void;
  readonly #left: (deviceId: LinkDeviceId) => void;
  readonly #devices = new Map<LinkDeviceId, DeviceFacts>();
  /** Devices that say what cannot be so, and are left alone. */
  readonly #odd = new Map<string, OddDevice>();
  /** Devices that were written into the catalogue since they came. */
  readonly #remembered = new Set<string>();
  /** Where a device was last seen, for the time that it is away. */
  readonly #lastBerth = new Map<LinkDeviceId, number>();
  /** Devices that left to install an update and come back by themselves, with when they left. */
  readonly #updating = new Map<LinkDeviceId, { name: string; since: number }>();
  #berths = 0;
  #network = 0;
  #storage = false;
  #connected = false;
  /** Ends what is followed, because another adapter was named. */
  #turned = new AbortController();

  /** @param on asked what the shop decided; told which devices are not as they were, and when one left */
  constructor(
    link: DeviceLink,
    db: Database,
    log: Log,
    on: {
      rules: () => Promise<BenchRules>;
      changed: (deviceIds: readonly string[]) => void;
      left: (deviceId: LinkDeviceId) => void;
    },
  ) {
    this.link = link;
    this.#db = db;
    this.#log = log;
    this.#rules = on.rules;
    this.#changed = on.changed;
    this.#left = on.left;
  }

  /** Follows the link until aborted, and takes it up again whenever it breaks. */
  async follow(signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      try {
        const until = AbortSignal.any([signal, this.#turned.signal]);
        for await (const event of this.link.events(until)) await this.#apply(event);
      } catch (error) {
        if (ended(signal)) return;
        if (this.#connected && !ended(this.#turned.signal))
          this.#log.warn({ error: describeError(error) }, 'the bench does not answer');
      }
      if (this.#connected) {
        this.#connected = false;
        this.#told = '';
        const gone = [...this.#devices.keys()];
        this.#devices.clear();
        this.#changed(gone);
      }
      if (ended(this.#turned.signal)) this.#turned = new AbortController();
      else await sleep(RECONNECT_MS, undefined, { signal }).catch(() => undefined);
    }
  }

  /** From now on another adapter is followed. */
  turnTo(site: AdapterSite): void {
    this.link.direct(site);
    this.#turned.abort();
  }

  /** What the device says of itself at this moment, asked anew. @throws Failure `device-not-here`, `link-down`. */
  async freshFacts(deviceId: LinkDeviceId): Promise<DeviceFacts> {
    try {
      return await this.link.facts(deviceId);
    } catch (error) {
      if (error instanceof LinkError && error.code === 'no-such-device') {
        throw new Failure('device-not-here', {}, { cause: error });
      }
      throw new Failure('link-down', {}, { cause: error });
    }
  }

  /** A device by its serial, asked anew. @throws Failure `device-not-here`, `link-down`. */
  async presentDevice(serial: string): Promise<DeviceFacts> {
    const onBench = this.bySerial(serial);
    if (!onBench) throw new Failure('device-not-here');
    return this.freshFacts(onBench.id);
  }

  present(): DeviceFacts[] {
    return [...this.#devices.values()];
  }

  bySerial(serial: string): DeviceFacts | null {
    return this.present().find((device) => device.serial === serial) ?? null;
  }

  async #apply(event: LinkEvent): Promise<void> {
    if (event.type === 'heartbeat') return;
    if (event.type === 'bench') {
      const before = [...this.#devices.keys()];
      this.#connected = true;
      this.#berths = event.berths;
      this.#network = event.network;
      this.#storage = event.storage;
      this.#devices.clear();
      this.#odd.clear();
      for (const device of event.devices) await this.#see(device);
      for (const device of event.odd) this.#seeOdd(device);
      this.#changed([...new Set([...before, ...this.#devices.keys()])]);
      await this.arrange().catch((error: unknown) =>
        this.#log.warn({ error: describeError(error) }, 'the bench was not told what was decided'),
      );
      return;
    }
    const id = event.type === 'left' ? event.id : event.device.id;
    if (event.type === 'odd') this.#seeOdd(event.device);
    else if (event.type === 'left') this.#goes(event.id);
    else await this.#see(event.device);
    this.#changed([id]);
  }

  /** Tells an adapter that takes mounted storage what the shop decided, where it was not told so before. */
  async arrange(): Promise<void> {
    if (!this.#connected || !this.#storage) return;
    const { berths, places } = await this.#rules();
    const told = JSON.stringify({ berths, places });
    if (told === this.#told) return;
    await this.link.arrange({ berths: Number(berths), places });
    this.#told = told;
  }

  #goes(said: string): void {
    this.#odd.delete(said);
    const id = linkDeviceSchema.safeParse(said).data;
    // One of another name was never taken for a device.
    if (id === undefined) return;
    const left = this.#devices.get(id);
    if (left?.activity === 'updating') {
      this.#updating.set(id, { name: left.name, since: Date.now() });
    }
    this.#devices.delete(id);
    this.#remembered.delete(id);
    this.#left(id);
  }

  async #see(device: DeviceFacts): Promise<void> {
    this.#devices.set(device.id, device);
    this.#odd.delete(device.id);
    this.#updating.delete(device.id);
    this.#lastBerth.set(device.id, device.berth);
    if (this.#remembered.has(device.id)) return;
    try {
      await rememberDevice(this.#db, device);
      this.#remembered.add(device.id);
    } catch (error) {
      // The bench is seen all the same; it is tried again with the next word of the device.
      this.#log.warn({ error: describeError(error) }, 'a device could not be written down');
    }
  }

  /** Nothing is done with such a device; all others are as they were. */
  #seeOdd(device: OddDevice): void {
    const known = linkDeviceSchema.safeParse(device.id).data;
    if (known !== undefined) {
      this.#devices.delete(known);
      this.#left(known);
    }
    this.#odd.set(device.id, device);
  }

  get connected(): boolean {
    return this.#connected;
  }

  /** Whether folders of this computer can be put on it. */
  get takesStorage(): boolean {
    return this.#storage;
  }

  /** Its places: on cables, and after them on the network. */
  get places(): { cables: number; network: number } {
    return { cables: this.#berths, network: this.#network };
  }

  /** What the device in a place says of itself that cannot be so; empty where there is none, or nothing odd. */
  oddIn(berth: number): string[] {
    return [...this.#odd.values()].find((d) => d.berth === berth)?.facts ?? [];
  }

  /** Devices that left to install an update and come back by themselves. */
  updating(): { deviceId: LinkDeviceId; name: string }[] {
    return [...this.#updating]
      .filter(([, { since }]) => Date.now() - since < UPDATE_AT_MOST_MS)
      .map(([deviceId, { name }]) => ({ deviceId, name }));
  }

  isHere(deviceId: LinkDeviceId): boolean {
    return this.#devices.has(deviceId);
  }

  /** Where a device is or was last. */
  lastBerth(deviceId: LinkDeviceId): number {
    return this.#lastBerth.get(deviceId) ?? 1;
  }
}

/** Asked through a function, since it changes while something else is awaited. */
const ended = (signal: AbortSignal): boolean => signal.aborted;
