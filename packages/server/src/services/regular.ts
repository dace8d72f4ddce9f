import { randomUUID } from 'node:crypto';
import {
  backupReadiness,
  Failure,
  firstUnmet,
  mayStart,
  scheduleRuleNames,
  scheduleState,
  type Schedule,
} from '@bright-cellar/core';
import type { RegularBackup } from '@bright-cellar/contract';
import { and, desc, eq, isNull } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { backups, customers, devices, operations, schedules, tickets } from '../database/schema.js';
import { describeError, type Log } from '../log.js';
import { knownDevice, presentArchiveOf, presentCopy } from './archives.js';
import { noteAudit } from './audit.js';
import { startBackup } from './backups.js';
import type { Planning } from './planning.js';
import { mustOpen, type Shop } from './shop.js';
import { ticketForWork } from './tickets.js';

const LOOK_EVERY_MS = 15_000;
/** Long enough for a fortnight, and no longer. */
const ARMED_MS = 15 * 86_400_000;

/** Backups that are taken again and again: tells what is due, and starts what may start by itself. */
export class RegularBackups {
  readonly #shop: Shop;
  readonly #planning: Planning;
  readonly #log: Log;
  readonly #changed: () => void;
  /** Passwords by schedule: in this memory only, and gone when the program ends. */
  readonly #armed = new Map<string, { password: string; by: string; until: number }>();
  #looking = false;

  constructor(shop: Shop, planning: Planning, log: Log, changed: () => void) {
    this.#shop = shop;
    this.#planning = planning;
    this.#log = log;
    this.#changed = changed;
  }

  /** Looks at the clock and the bench now and then, until aborted. */
  follow(signal: AbortSignal): void {
    const timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    signal.addEventListener('abort', () => clearInterval(timer));
  }

  /** Starts every backup that is due, ready and armed. */
  async look(now = new Date()): Promise<void> {
    if (this.#looking) return;
    this.#looking = true;
    try {
      for (const row of await scheduleRows(this.#shop.db)) await this.#startIfDue(row, now);
    } catch (error) {
      this.#log.warn({ error: describeError(error) }, 'regular backups could not be looked at');
    } finally {
      this.#looking = false;
    }
  }

  async list(now = new Date()): Promise<RegularBackup[]> {
    const rows = await scheduleRows(this.#shop.db);
    return Promise.all(
      rows.map(async (row) => {
        const { state, due } = scheduleState(row.schedule, { ...row, now }, clock(now));
        const armed = this.#armedFor(row.id, now);
        return {
          id: row.id,
          ticketNumber: row.ticketNumber,
          customerName: row.customerName,
          device: knownDevice(row.device),
          schedule: row.schedule,
          state,
          nextDue: due?.toISOString() ?? null,
          lastDone: row.lastDone?.toISOString() ?? null,
          armedUntil: armed ? new Date(armed.until).toISOString() : null,
          waitsFor: state === 'waiting' ? null : await this.#waitsFor(row, now),
        };
      }),
    );
  }

  async add(
    number: string,
    schedule: Schedule,
    wholeCustomer: boolean,
    technicianId: string,
  ): Promise<void> {
    const { db } = this.#shop;
    const { ticket } = await ticketForWork(db, number);
    const concerned = wholeCustomer
      ? await db
          .select({ id: tickets.id })
          .from(tickets)
          .where(and(eq(tickets.customerId, ticket.customerId), isNull(tickets.closedAt)))
      : [{ id: ticket.id }];
    await db.transaction(async (tx) => {
      for (const { id: ticketId } of concerned) {
        await tx
          .insert(schedules)
          .values({
            id: randomUUID(),
            ticketId,
            schedule,
            createdBy: technicianId,
            createdAt: new Date(),
          })
          .onDuplicateKeyUpdate({ set: { schedule } });
        await noteAudit(tx, {
          technicianId,
          ticketId,
          action: 'schedule-changed',
          what: `Regular backups: ${scheduleRuleNames[schedule.rule].toLowerCase()}.`,
        });
      }
    });
    this.#changed();
  }

  async end(id: string, technicianId: string): Promise<void> {
    const { db } = this.#shop;
    const [row] = await db.select().from(schedules).where(eq(schedules.id, id));
    if (!row) throw new Failure('not-found');
    this.#armed.delete(id);
    await db.transaction(async (tx) => {
      await tx.delete(schedules).where(eq(schedules.id, id));
      await noteAudit(tx, {
        technicianId,
        ticketId: row.ticketId,
        action: 'schedule-changed',
        what: 'No regular backups any more.',
      });
    });
    this.#changed();
  }

  /** Holds a password that opens the device's archive. @throws Failure `wrong-password`, `archive-not-here`. */
  async arm(id: string, password: string, technicianId: string): Promise<void> {
    const row = (await scheduleRows(this.#shop.db)).find((r) => r.id === id);
    if (!row) throw new Failure('not-found');
    const archive = await presentArchiveOf(this.#shop.db, row.device.id);
    if (!archive) {
      throw new Failure('archive-not-here', {
        what: 'This device has no archive yet that regular backups could go into.',
        next: 'Take its first backup on its ticket.',
      });
    }
    const folder = await presentCopy(this.#shop.db, archive.id);
    await mustOpen(this.#shop, folder, password, row.ticketId, technicianId);
    this.#armed.set(id, { password, by: technicianId, until: Date.now() + ARMED_MS });
    await this.look();
    this.#changed();
  }

  #armedFor(id: string, now: Date) {
    const armed = this.#armed.get(id);
    if (armed && armed.until > now.getTime()) return armed;
    this.#armed.delete(id);
    return null;
  }

  /** What somebody must do before it can start; null when nothing. */
  async #waitsFor(row: Row, now: Date): Promise<string | null> {
    const facts = this.#shop.bench.bySerial(row.device.serial);
    if (!facts) return 'Connect the device.';
    const unmet = firstUnmet(backupReadiness(facts));
    if (unmet && unmet.weight !== 'note') return unmet.remedy;
    if (!this.#armedFor(row.id, now)) return 'Type its password.';
    return (await presentArchiveOf(this.#shop.db, row.device.id))
      ? null
      : 'Take its first backup on its ticket.';
  }

  async #startIfDue(row: Row, now: Date): Promise<void> {
    const facts = this.#shop.bench.bySerial(row.device.serial);
    const armed = this.#armedFor(row.id, now);
    if (!facts || !armed || facts.contentRevision === null) return;
    const changed = facts.contentRevision !== row.lastRevision;
    const { connection } = facts;
    if (!mayStart(row.schedule, { ...row, now, connection, changed }, clock(now))) return;
    if ((await this.#waitsFor(row, now)) !== null) return;
    const [busy] = await this.#shop.db
      .select({ id: operations.id })
      .from(operations)
      .where(eq(operations.holds, facts.serial));
    const archive = await presentArchiveOf(this.#shop.db, row.device.id);
    if (busy || !archive) return;
    await startBackup(
      this.#shop,
      this.#planning,
      row.ticketNumber,
      {
        mode: 'everything',
        choice: {},
        encrypted: true,
        accepted: [],
        rackId: null,
        archiveId: archive.id,
        fromDesk: false,
        password: armed.password,
        passwordHolder: 'shop',
        reminder: '',
      },
      armed.by,
    ).catch((error: unknown) => {
      this.#log.warn({ error: describeError(error) }, 'a regular backup could not start');
    });
  }
}

type Row = Awaited<ReturnType<typeof scheduleRows>>[number];

/** Every schedule of an open ticket, with when its device was last backed up. */
async function scheduleRows(db: Database) {
  const rows = await db
    .select({ schedule: schedules, ticket: tickets, customer: customers, device: devices })
    .from(schedules)
    .innerJoin(tickets, eq(tickets.id, schedules.ticketId))
    .innerJoin(customers, eq(customers.id, tickets.customerId))
    .innerJoin(devices, eq(devices.id, tickets.deviceId))
    .where(isNull(tickets.closedAt));
  return Promise.all(
    rows.map(async ({ schedule, ticket, customer, device }) => {
      const [last] = await db
        .select({ takenAt: backups.takenAt, contentRevision: backups.contentRevision })
        .from(backups)
        .where(eq(backups.ticketId, ticket.id))
        .orderBy(desc(backups.takenAt))
        .limit(1);
      return {
        id: schedule.id,
        schedule: schedule.schedule,
        began: schedule.createdAt,
        ticketId: ticket.id,
        ticketNumber: ticket.number,
        customerName: customer.name,
        device,
        lastDone: last?.takenAt ?? null,
        lastRevision: last?.contentRevision ?? null,
      };
    }),
  );
}

/** The shop's clock is that of its computer. */
const clock = (now: Date) => ({ offsetMinutes: -now.getTimezoneOffset() });
