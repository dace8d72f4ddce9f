import {
  activeStates,
  asksNext,
  backupReadiness,
  definitionOf,
  operationKinds,
  rackReadiness,
  type DeviceFacts,
} from '@bright-cellar/core';
import type { BenchView } from '@bright-cellar/contract';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { customers, devices, operations, tickets } from '../database/schema.js';
import { listRacks } from '../racks/index.js';
import type { BenchWatch } from './watch.js';

/** During these the device goes away, and comes back by itself. */
const away = operationKinds.filter((kind) => definitionOf(kind).leavesBench);
/** Whose backup goes onto the device: it belongs to that ticket meanwhile. */
const onto = ['restore', 'cross'] as const;

/** Every berth with its device, its ticket, and what must be done on it. */
export async function benchView(db: Database, bench: BenchWatch): Promise<BenchView> {
  const present = bench.present();
  const byTicket = await ticketsOf(db, present);
  const racks = await listRacks(db);
  const running = await db
    .select({ deviceId: operations.deviceId, deviceName: operations.deviceName })
    .from(operations)
    .where(and(inArray(operations.state, activeStates), inArray(operations.kind, away)));
  const { cables, network } = bench.places;
  return {
    connected: bench.connected,
    storage: bench.takesStorage,
    berths: Array.from({ length: cables + network }, (_, i) => {
      const device = present.find((d) => d.berth === i + 1) ?? null;
      const ticket = device ? byTicket.get(device.id) : undefined;
      const filled = device && !device.empty ? device : null;
      return {
        number: i + 1,
        connection: i < cables ? ('cable' as const) : ('network' as const),
        device,
        odd: device ? [] : bench.oddIn(i + 1),
        readiness: filled ? [...backupReadiness(filled), rackReadiness(filled, racks)] : [],
        asks: filled ? asksNext(filled) : [],
        ticketNumber: ticket?.number ?? null,
        customerName: ticket?.customerName ?? null,
      };
      // A place on the network is only worth showing with a device in it.
    }).filter((berth) => berth.connection === 'cable' || berth.device !== null),
    away: [
      ...running.map(({ deviceId, deviceName }) => ({ deviceId, name: deviceName ?? '' })),
      ...bench.updating(),
    ].flatMap(({ deviceId, name }) =>
      deviceId && !bench.isHere(deviceId)
        ? [{ deviceId, name, berth: bench.lastBerth(deviceId) }]
        : [],
    ),
  };
}

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
        inArray(operations.kind, onto),
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
