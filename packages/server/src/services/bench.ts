import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  asksNext,
  backupReadiness,
  Failure,
  rackReadiness,
  unreadSerial,
  type DeviceFacts,
} from '@bright-cellar/core';
import type { BenchView } from '@bright-cellar/contract';
import {
  LinkError,
  type DeviceLink,
  type LinkEvent,
  type OddDevice,
} from '@bright-cellar/device-link';
import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { customers, devices, operations, tickets } from '../database/schema.js';
import { describeError, type Log } from '../log.js';
import { listRacks } from './racks.js';

const RECONNECT_MS = 1_000;
/** A device that is longer away for its update does not come back by itself. */
const UPDATE_AT_MOST_MS = 45 * 60_000;

/** What is on the bench now, as the link tells it. */
export class BenchWatch {
  readonly link: DeviceLink;
  readonly #db: Database;
  readonly #log: Log;
  readonly #changed: () => void;
  readonly #left: (deviceId: string) => void;
  readonly #devices = new Map<string, DeviceFacts>();
  /** Devices that say what cannot be so, and are left alone. */
  readonly #odd = new Map<string, OddDevice>();
  /** Devices that were written into the catalogue since they came. */
  readonly #remembered = new Set<string>();
  /** Where a device was last seen, for the time that it is away. */
  readonly #lastBerth = new Map<string, number>();
  /** Devices that left to install an update and come back by themselves, with when they left. */
  readonly #updating = new Map<string, { name: string; since: number }>();
  #berths = 0;
  #network = 0;
  #connected = false;

  /** @param on told when anything on the bench changed, and when a device left it */
  constructor(
    link: DeviceLink,
    db: Database,
    log: Log,
    on: { changed: () => void; left: (deviceId: string) => void },
  ) {
    this.link = link;
    this.#db = db;
    this.#log = log;
    this.#changed = on.changed;
    this.#left = on.left;
  }

  /** Follows the link until aborted, and takes it up again whenever it breaks. */
  async follow(signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      try {
        for await (const event of this.link.events(signal)) await this.#apply(event);
      } catch (error) {
        if (ended(signal)) return;
        if (this.#connected)
          this.#log.warn({ error: describeError(error) }, 'the bench does not answer');
      }
      if (this.#connected) {
        this.#connected = false;
        this.#devices.clear();
        this.#changed();
      }
      await sleep(RECONNECT_MS, undefined, { signal }).catch(() => undefined);
    }
  }

  /** What the device says of itself at this moment, asked anew. @throws Failure `device-not-here`, `link-down`. */
  async freshFacts(deviceId: string): Promise<DeviceFacts> {
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
    switch (event.type) {
      case 'heartbeat':
        return;
      case 'bench':
        this.#connected = true;
        this.#berths = event.berths;
        this.#network = event.network;
        this.#devices.clear();
        this.#odd.clear();
        for (const device of event.devices) await this.#see(device);
        for (const device of event.odd) this.#seeOdd(device);
        break;
      case 'odd':
        this.#seeOdd(event.device);
        break;
      case 'arrived':
      case 'changed':
        await this.#see(event.device);
        break;
      case 'left': {
        const left = this.#devices.get(event.id);
        if (left?.activity === 'updating') {
          this.#updating.set(event.id, { name: left.name, since: Date.now() });
        }
        this.#devices.delete(event.id);
        this.#odd.delete(event.id);
        this.#remembered.delete(event.id);
        this.#left(event.id);
        break;
      }
    }
    this.#changed();
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
    this.#devices.delete(device.id);
    this.#odd.set(device.id, device);
    this.#left(device.id);
  }

  /** Every berth with its device, its ticket, and what must be done on it. */
  async view(): Promise<BenchView> {
    const present = this.present();
    const byTicket = await ticketsOf(this.#db, present);
    const racks = await listRacks(this.#db);
    const running = await this.#db
      .select({ deviceId: operations.deviceId, deviceName: operations.deviceName })
      .from(operations)
      .where(and(eq(operations.state, 'running'), inArray(operations.kind, ['restore', 'erase'])));
    return {
      connected: this.#connected,
      berths: Array.from({ length: this.#berths + this.#network }, (_, i) => {
        const device = present.find((d) => d.berth === i + 1) ?? null;
        const ticket = device ? byTicket.get(device.id) : undefined;
        return {
          number: i + 1,
          connection: i < this.#berths ? ('cable' as const) : ('network' as const),
          device,
          odd: device ? [] : ([...this.#odd.values()].find((d) => d.berth === i + 1)?.facts ?? []),
          readiness:
            device && !device.empty
              ? [...backupReadiness(device), rackReadiness(device, racks)]
              : [],
          asks: device && !device.empty ? asksNext(device) : [],
          ticketNumber: ticket?.number ?? null,
          customerName: ticket?.customerName ?? null,
        };
        // A place on the network is only worth showing with a device in it.
      }).filter((berth) => berth.connection === 'cable' || berth.device !== null),
      away: [
        ...running.map(({ deviceId, deviceName }) => ({ deviceId, name: deviceName ?? '' })),
        ...[...this.#updating]
          .filter(([, { since }]) => Date.now() - since < UPDATE_AT_MOST_MS)
          .map(([deviceId, { name }]) => ({ deviceId, name })),
      ].flatMap(({ deviceId, name }) =>
        deviceId && !this.#devices.has(deviceId)
          ? [{ deviceId, name, berth: this.#lastBerth.get(deviceId) ?? 1 }]
          : [],
      ),
    };
  }
}

/** Asked through a function, since it changes while something else is awaited. */
const ended = (signal: AbortSignal): boolean => signal.aborted;

/** The open ticket each device belongs to: its own, or the one whose backup goes onto it now. */
async function ticketsOf(db: Database, present: readonly DeviceFacts[]) {
  const found = new Map<string, { number: string; customerName: string }>();
  if (present.length === 0) return found;
  const own = await db
    .select({ serial: devices.serial, number: tickets.number, customerName: customers.name })
    .from(tickets)
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .where(
      and(
        isNull(tickets.closedAt),
        inArray(
          devices.serial,
          present.map((d) => d.serial),
        ),
      ),
    )
    .orderBy(tickets.openedAt);
  const ids = present.map((d) => d.id);
  const worked = await db
    .select({ deviceId: operations.deviceId, number: tickets.number, customerName: customers.name })
    .from(operations)
    .innerJoin(tickets, eq(tickets.id, operations.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .where(
      and(
        eq(operations.kind, 'restore'),
        isNull(tickets.closedAt),
        inArray(operations.deviceId, ids),
      ),
    )
    .orderBy(operations.startedAt);
  for (const device of present) {
    const ticket =
      own.findLast((row) => row.serial === device.serial) ??
      worked.findLast((row) => row.deviceId === device.id);
    if (ticket) found.set(device.id, ticket);
  }
  return found;
}

/** Keeps what a device says of itself, for when it is gone. @returns its id in the catalogue. */
export async function rememberDevice(db: Database, facts: DeviceFacts): Promise<string> {
  const read = {
    family: facts.family,
    familyName: facts.familyName,
    kind: facts.kind,
    model: facts.model,
    name: facts.name,
    imei: facts.imei,
    osName: facts.osName,
    osVersion: facts.osVersion,
    capacity: facts.capacity,
    readFrom: 'cable' as const,
    seenAt: new Date(),
  };
  await db
    .insert(devices)
    .values({ id: randomUUID(), serial: facts.serial, ...read })
    .onDuplicateKeyUpdate({ set: read });
  const [row] = await db
    .select({ id: devices.id })
    .from(devices)
    .where(eq(devices.serial, facts.serial))
    .orderBy(desc(devices.seenAt));
  if (!row) throw new Error('a device was just written and is not there');
  return row.id;
}

/** Keeps what is printed on a device that cannot be read. @returns its id in the catalogue. */
export async function rememberTyped(
  db: Database,
  typed: {
    familyName: string;
    model: string;
    kind: 'phone' | 'tablet' | 'handset';
    serial: string;
    imei: string;
  },
): Promise<string> {
  if (typed.serial !== '') {
    const [known] = await db
      .select({ id: devices.id })
      .from(devices)
      .where(eq(devices.serial, typed.serial));
    if (known) return known.id;
  }
  const id = randomUUID();
  await db.insert(devices).values({
    id,
    serial: typed.serial || unreadSerial(id.slice(0, 8)),
    family: typed.familyName.toLowerCase(),
    familyName: typed.familyName,
    kind: typed.kind,
    model: typed.model,
    name: `${typed.familyName} ${typed.model}`,
    imei: typed.imei || null,
    osName: '',
    osVersion: '',
    capacity: 0,
    readFrom: 'typed',
    seenAt: new Date(),
  });
  return id;
}
