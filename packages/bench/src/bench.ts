import { EventEmitter, once } from 'node:events';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { LINK_PREFIX, type SentEvent } from '@bright-cellar/device-link';
import express from 'express';
import { z } from 'zod';
import { NO_FAULTS, type Faults } from './cable.js';
import { controlRoutes } from './control-routes.js';
import type { Drives } from './drives.js';
import { linkRoutes } from './link-routes.js';
import {
  conditionSchema,
  definitionSchema,
  StandIn,
  type Definition,
  type GivenCondition,
  type Timing,
} from './stand-in.js';

export interface BenchOptions {
  port: number;
  token: string;
  /** Where stand-ins keep their state and what is restored onto them. */
  folder: string;
  berths: number;
  /** Devices that can be on the shop network at once. */
  network?: number;
  timing: Timing;
  /** Devices that are there from the start, unless an earlier run left them in another condition. */
  devices: { definition: Definition; condition: GivenCondition }[];
  faults?: Partial<Faults>;
  /** In a real shop: what the tray does takes the link’s token, and nobody sees a tray. */
  guarded?: boolean;
  /** Drives that can be plugged in beside the devices. */
  drives?: Drives;
}

export interface RunningBench {
  port: number;
  devices: ReadonlyMap<string, StandIn>;
  stop(): Promise<void>;
}

const savedSchema = z.array(z.object({ definition: definitionSchema, condition: conditionSchema }));

/** All stand-ins on one bench: who is on which berth, and who is told when that changes. */
export class Bench {
  readonly devices = new Map<string, StandIn>();
  readonly berths: number;
  readonly network: number;
  readonly #options: BenchOptions;
  readonly #events = new EventEmitter().setMaxListeners(0);
  #saving: Promise<void> = Promise.resolve();
  #closed = false;

  constructor(options: BenchOptions) {
    this.#options = options;
    this.berths = options.berths;
    this.network = options.network ?? 2;
  }

  async load(): Promise<void> {
    await mkdir(this.#options.folder, { recursive: true });
    const saved = await readFile(this.#file, 'utf8').then(
      (text) => savedSchema.parse(JSON.parse(text)),
      () => [],
    );
    const known = new Set(saved.map((s) => s.definition.id));
    const fresh = this.#options.devices.filter((d) => !known.has(d.definition.id));
    for (const { definition, condition } of [...saved, ...fresh])
      await this.add(definition, condition);
  }

  async add(definition: Definition, given: GivenCondition): Promise<StandIn> {
    const condition = conditionSchema.parse(given);
    const device = new StandIn(
      definition,
      condition,
      join(this.#options.folder, 'devices', definition.id),
      this.#options.timing,
      (what) => this.#tell(device, what),
      { ...NO_FAULTS, ...this.#options.faults },
    );
    await device.rescan();
    this.devices.set(definition.id, device);
    if (condition.berth !== null) this.#tell(device, 'arrived');
    return device;
  }

  /** The first free cable, or the first free place on the shop network. */
  freeBerth(connection: 'cable' | 'network' = 'cable'): number | null {
    const taken = new Set([...this.devices.values()].map((d) => d.berth));
    const [first, last] =
      connection === 'cable' ? [1, this.berths] : [this.berths + 1, this.berths + this.network];
    for (let berth = first; berth <= last; berth++) if (!taken.has(berth)) return berth;
    return null;
  }

  present(): StandIn[] {
    return [...this.devices.values()].filter((d) => d.berth !== null);
  }

  listen(listener: (event: SentEvent) => void): () => void {
    this.#events.on('event', listener);
    return () => this.#events.off('event', listener);
  }

  /** Told at the moment when a device leaves: whatever still runs over its cable ends at once. */
  onLeft(id: string, listener: () => void): () => void {
    this.#events.on(`left ${id}`, listener);
    return () => this.#events.off(`left ${id}`, listener);
  }

  /** What devices still do afterwards, on timers of their own, is not written down any more. */
  async close(): Promise<void> {
    this.#closed = true;
    await this.#saving;
  }

  #tell(device: StandIn, what: 'arrived' | 'changed' | 'left'): void {
    const { id } = device.definition;
    if (what === 'left') {
      this.#events.emit('event', { type: 'left', id } satisfies SentEvent);
      this.#events.emit(`left ${id}`);
    } else if (device.berth !== null) {
      this.#events.emit('event', { type: what, device: device.facts() } satisfies SentEvent);
    }
    this.#events.emit('tray');
    this.#save();
  }

  tellTray(): void {
    this.#events.emit('tray');
  }

  onTray(listener: () => void): () => void {
    this.#events.on('tray', listener);
    return () => this.#events.off('tray', listener);
  }

  get #file(): string {
    return join(this.#options.folder, 'devices.json');
  }

  #save(): void {
    if (this.#closed) return;
    this.#saving = this.#saving.then(async () => {
      const all = [...this.devices.values()].map(({ definition, condition }) => ({
        definition,
        condition,
      }));
      await writeFile(`${this.#file}.new`, JSON.stringify(all, null, 2));
      await rename(`${this.#file}.new`, this.#file);
    });
  }
}

/** Starts the stand-in bench: the device link, the control API and the tray, on loopback only. */
export async function startBench(options: BenchOptions): Promise<RunningBench> {
  const bench = new Bench(options);
  await bench.load();
  const app = express();
  app.disable('x-powered-by');
  app.use(LINK_PREFIX, linkRoutes(bench, options.token));
  const { drives = null, guarded = false } = options;
  const guard = guarded ? options.token : null;
  app.use(controlRoutes(bench, options.folder, { drives, guard }));
  const server = createServer(app);
  // A caller may ask again just when the usual five seconds are over, and find the door shut on it.
  server.keepAliveTimeout = 65_000;
  // A device takes as long as it takes; clients watch for silence themselves.
  server.requestTimeout = 0;
  const port = await listening(server, options.port);
  return {
    port,
    devices: bench.devices,
    async stop() {
      const closed = new Promise((resolve) => server.close(resolve));
      server.closeAllConnections();
      await closed;
      await bench.close();
    },
  };
}

/** @returns the port, which is another one when 0 was asked for. */
async function listening(server: Server, port: number): Promise<number> {
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  return (server.address() as AddressInfo).port;
}
