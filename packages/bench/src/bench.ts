import { EventEmitter } from 'node:events';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Berths, linkRoutes, Mounts, served, type DeviceNews } from '@bright-cellar/adapter';
import { LINK_PREFIX } from '@bright-cellar/device-link';
import express from 'express';
import { z } from 'zod';
import type { Timing } from './alone.js';
import { NO_FAULTS, type Faults } from './cable.js';
import { controlRoutes } from './control-routes.js';
import type { Drives } from './drives.js';
import {
  conditionSchema,
  definitionSchema,
  type Definition,
  type GivenCondition,
} from './stand-in-state.js';
import { StandIn } from './stand-in.js';

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
  readonly berths: Berths;
  readonly #options: BenchOptions;
  readonly #events = new EventEmitter().setMaxListeners(0);
  #saving: Promise<void> = Promise.resolve();
  #closed = false;

  constructor(options: BenchOptions) {
    this.#options = options;
    this.berths = new Berths(options.berths, options.network ?? 2);
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
    this.berths.devices.set(definition.id, device);
    if (condition.berth !== null) this.#tell(device, 'arrived');
    // A bench that cannot write any more is ending.
    device.goOn().catch(() => undefined);
    return device;
  }

  /** What devices still do afterwards, on timers of their own, is not written down any more. */
  async close(): Promise<void> {
    this.#closed = true;
    await this.#saving;
  }

  #tell(device: StandIn, what: DeviceNews): void {
    this.berths.tell(device, what);
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
  const { token, drives = null } = options;
  const mounts = new Mounts(bench.berths);
  app.use(LINK_PREFIX, linkRoutes({ name: 'Stand-in bench', token, berths: bench.berths, mounts }));
  app.use(controlRoutes(bench, options.folder, drives));
  const { port, stop } = await served(app, options.port);
  return {
    port,
    devices: bench.devices,
    async stop() {
      mounts.end();
      await stop();
      await bench.close();
    },
  };
}
