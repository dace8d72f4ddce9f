import { randomUUID } from 'node:crypto';
import {
  backupReadiness,
  deviceLock,
  Failure,
  firstUnmet,
  extractSetName,
  mayStart,
  problemOf,
  restsUntil,
  scheduleRuleNames,
  scheduleState,
  type DeviceId,
  type Schedule,
} from '@bright-cellar/core';
import type { RegularExtract, RegularWork } from '@bright-cellar/contract';
import { and, eq, isNull } from 'drizzle-orm';
import { devices, schedules, tickets } from '../database/schema.js';
import { describeError, type Log } from '../log.js';
import { agreedOf } from '../agreements/index.js';
import { knownDevice, mustOpen, presentArchiveOf, presentCopy } from '../archives/index.js';
import { isHeld } from '../engine/index.js';
import { inTheNameOf } from '../kernel/actor.js';
import { noteOnly, unitOfWork } from '../kernel/unit-of-work.js';
import {
  beginBackup,
  beginRegularSync,
  keepPartnerOrder,
  OPEN_FILE_NOT_AGREED,
  revisionOf,
  startExtract,
} from '../operations/index.js';
import type { Context, Shop } from '../shop.js';
import { ticketForWork } from '../tickets/index.js';
import { ArmedPasswords } from './armed-passwords.js';
import { regularRows, type RegularRow } from './regular-rows.js';

const LOOK_EVERY_MS = 15_000;

/** What is taken again and again, backups and open files: tells what is due, and starts what may start by itself. */
export class RegularWorks {
  readonly #shop: Shop;
  readonly #log: Log;
  readonly #changed: () => void;
  /** Passwords by schedule. */
  readonly #armed = new ArmedPasswords();
  /** What could not even start, by schedule; tells why, and lets it rest. */
  readonly #refused = new Map<string, { at: Date; what: string }>();
  #looking = false;

  constructor(shop: Shop, log: Log, changed: () => void) {
    this.#shop = shop;
    this.#log = log;
    this.#changed = changed;
  }

  /** Looks at the clock and the bench now and then, until aborted. */
  follow(signal: AbortSignal): void {
    const timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    signal.addEventListener('abort', () => clearInterval(timer));
  }

  /** Starts everything that is due and ready, and whose password is held where it needs one. */
  async look(now = new Date()): Promise<void> {
    if (this.#looking) return;
    this.#looking = true;
    try {
      for (const row of await regularRows(this.#shop.db)) await this.#startIfDue(row, now);
    } catch (error) {
      this.#log.warn(
        { error: describeError(error) },
        'what is taken regularly could not be looked at',
      );
    } finally {
      this.#looking = false;
    }
  }

  async list(now = new Date()): Promise<RegularWork[]> {
    const rows = await regularRows(this.#shop.db);
    return Promise.all(
      rows.map(async (row) => {
        const { state, due } = scheduleState(row.schedule, { ...row, now }, clock);
        const armed = this.#armed.get(row.id, now);
        return {
          id: row.id,
          extract: row.extract,
          sync: row.sync === null ? null : { with: await this.#nameOf(row.syncWith) },
          ticketNumber: row.ticketNumber,
          customerName: row.customer.name,
          device: knownDevice(row.device),
          schedule: row.schedule,
          state,
          nextDue: due?.toISOString() ?? null,
          lastDone: row.lastDone?.toISOString() ?? null,
          armedUntil: armed ? new Date(armed.until).toISOString() : null,
          waitsFor:
            state === 'waiting'
              ? (this.#cameToNothing(row, now) ?? this.#lacksOther(row))
              : await this.#waitsFor(row, now),
        };
      }),
    );
  }

  /** @throws Failure `not-agreed` where an open file is wanted and looking inside was not agreed. */
  async add(
    context: Context,
    number: string,
    wanted: { schedule: Schedule; wholeCustomer: boolean; extract: RegularExtract | null },
  ): Promise<void> {
    const { db } = context;
    const { schedule, extract } = wanted;
    const { ticket } = await ticketForWork(db, number);
    const open = wanted.wholeCustomer
      ? await db
          .select({ id: tickets.id })
          .from(tickets)
          .where(and(eq(tickets.customerId, ticket.customerId), isNull(tickets.closedAt)))
      : [{ id: ticket.id }];
    const concerned: string[] = [];
    for (const { id } of open) {
      if (!extract || (await agreedOf(db, id)).lookIn) concerned.push(id);
      else if (id === ticket.id) {
        throw new Failure('not-agreed', { what: OPEN_FILE_NOT_AGREED });
      }
    }
    const takes = extract ? extract.what.set : 'backup';
    await unitOfWork(context, async (unit) => {
      for (const ticketId of concerned) {
        await unit.tx
          .insert(schedules)
          .values({
            id: randomUUID(),
            ticketId,
            takes,
            schedule,
            extract,
            createdBy: context.actor.technicianId,
            createdAt: unit.now,
          })
          .onDuplicateKeyUpdate({ set: { schedule, extract } });
        unit.note({
          ticketId,
          action: 'schedule-changed',
          what: `${workName({ extract, sync: null })}: ${scheduleRuleNames[schedule.rule].toLowerCase()}.`,
        });
      }
      unit.changed('schedule');
    });
    // Whatever is due already need not wait for the next look, nor what was in the way and may be mended.
    this.#refused.clear();
    await this.look();
  }

  /**
   * Keeps a device in step whenever it is connected, with a server that its customer is signed in to now or with their other
   * device, until its ticket is closed.
   * @param partner whom, as it was opened. @throws Failure `not-found`
   */
  async keepInStep(context: Context, number: string, partner: string): Promise<void> {
    const { ticket } = await ticketForWork(context.db, number);
    const { technicianId } = context.actor;
    const kept = await context.orders.ask(keepPartnerOrder, { id: partner, technicianId });
    const sync = { sync: kept.sealed, syncWith: kept.serial };
    const schedule = {
      ...({ rule: 'on-connect', weekday: 0, at: 0, quiet: null } as const),
      ...{ catchUp: true, overNetwork: false },
    };
    await unitOfWork(context, async (unit) => {
      await unit.tx
        .insert(schedules)
        .values({
          ...{ id: randomUUID(), ticketId: ticket.id, takes: 'sync', schedule, ...sync },
          ...{ createdBy: technicianId, createdAt: unit.now },
        })
        .onDuplicateKeyUpdate({ set: { ...sync, createdBy: technicianId } });
      unit.note({
        ticketId: ticket.id,
        action: 'schedule-changed',
        what:
          kept.serial === null
            ? 'Kept in step with the customer’s own server whenever it is connected; what one signs in with is kept sealed for that.'
            : 'Kept in step with the customer’s other device whenever both are connected.',
      });
      unit.changed('schedule');
    });
    this.#refused.clear();
  }

  async end(context: Context, id: string): Promise<void> {
    const { db } = context;
    const [row] = await db.select().from(schedules).where(eq(schedules.id, id));
    if (!row) throw new Failure('not-found');
    this.#armed.forget(id);
    this.#refused.delete(id);
    await unitOfWork(context, async (unit) => {
      await unit.tx.delete(schedules).where(eq(schedules.id, id));
      unit.changed('schedule');
      unit.note({
        ticketId: row.ticketId,
        action: 'schedule-changed',
        what: `${workName(row)}: not regularly any more.`,
      });
    });
  }

  /** The device, by its id in the catalogue, of which something is taken regularly. @throws Failure `not-found` */
  async deviceOf(id: string): Promise<DeviceId> {
    return (await this.#row(id)).device.id;
  }

  async #row(id: string): Promise<RegularRow> {
    const row = (await regularRows(this.#shop.db)).find((r) => r.id === id);
    if (!row) throw new Failure('not-found');
    return row;
  }

  /** Holds a password that opens the device's archive. @throws Failure `wrong-password`, `archive-not-here`. */
  async arm(context: Context, id: string, password: string): Promise<void> {
    const row = await this.#row(id);
    const archive = await presentArchiveOf(this.#shop.db, row);
    if (!archive) {
      throw new Failure('archive-not-here', {
        what: 'This device has no archive yet that regular backups could go into.',
        next: 'Take its first backup on its ticket.',
      });
    }
    const copy = await presentCopy(this.#shop.db, archive.id);
    await mustOpen(context, copy, password, row.ticketId);
    this.#armed.arm(id, password, context.actor.technicianId);
    await noteOnly(context, {
      ticketId: row.ticketId,
      action: 'schedule-changed',
      what: `${workName(row)}: its password is held in memory from now on.`,
    });
    this.#refused.delete(id);
    await this.look();
    this.#changed();
  }

  /** The device, and the one that it is kept in step with, as far as they are there. */
  #onBench({ device, syncWith }: RegularRow) {
    const { bench } = this.#shop;
    return {
      facts: bench.bySerial(device.serial),
      other: syncWith === null ? null : bench.bySerial(syncWith),
    };
  }

  #lacksOther(row: RegularRow): string | null {
    const { facts, other } = this.#onBench(row);
    return facts && row.syncWith !== null && !other ? 'Connect the other device.' : null;
  }

  /** What a device is called, by its serial. */
  async #nameOf(serial: string | null): Promise<string | null> {
    if (serial === null) return null;
    const [found] = await this.#shop.db.select().from(devices).where(eq(devices.serial, serial));
    return found ? knownDevice(found).name : null;
  }

  /** Why it rests after a try that came to nothing; null when it does not. */
  #cameToNothing(row: RegularRow, now: Date): string | null {
    const refused = this.#refused.get(row.id);
    if (refused && restsUntil(refused.at, now)) return refused.what;
    return restsUntil(row.failedAt, now)
      ? 'The last try failed: look at its ticket. It is tried again after an hour.'
      : null;
  }

  /** What somebody must do before it can start; null when nothing. */
  async #waitsFor(row: RegularRow, now: Date): Promise<string | null> {
    const rests = this.#cameToNothing(row, now);
    if (rests) return rests;
    const { facts, other } = this.#onBench(row);
    if (!facts) return 'Connect the device.';
    const lacks = this.#lacksOther(row);
    if (lacks !== null) return lacks;
    const unmet = firstUnmet(backupReadiness(facts));
    const isBackup = !row.extract && row.sync === null;
    if (unmet && (unmet.weight === 'must' || isBackup)) return unmet.remedy;
    const ofOther = other && firstUnmet(backupReadiness(other));
    if (other && ofOther?.weight === 'must') return `${other.model}: ${ofOther.remedy}`;
    if (!isBackup) return null;
    if (!this.#armed.get(row.id, now)) return 'Type its password.';
    return (await presentArchiveOf(this.#shop.db, row))
      ? null
      : 'Take its first backup on its ticket.';
  }

  async #startIfDue(row: RegularRow, now: Date): Promise<void> {
    const { facts, other } = this.#onBench(row);
    const revision = facts && revisionOf(facts, other);
    if (!facts || revision === null) return;
    const changed = revision !== row.lastRevision || (row.sync !== null && restedSince(row, now));
    const { connection } = facts;
    if (!mayStart(row.schedule, { ...row, now, connection, changed }, clock)) return;
    if ((await this.#waitsFor(row, now)) !== null) return;
    for (const { serial } of other ? [facts, other] : [facts])
      if (await isHeld(this.#shop.db, deviceLock(serial))) return;
    try {
      await this.#start(row, now);
      this.#refused.delete(row.id);
    } catch (error) {
      this.#log.warn({ error: describeError(error) }, 'what is due could not start');
      this.#refused.set(row.id, { at: now, what: problemOf(error).what });
      this.#changed();
    }
  }

  async #start(row: RegularRow, now: Date): Promise<void> {
    const inName = (of: string): Context => ({ ...this.#shop, actor: inTheNameOf(of) });
    if (row.sync !== null) {
      const { facts, other } = this.#onBench(row);
      const { createdBy, ticketNumber, sync: sealed } = row;
      if (facts) await beginRegularSync(inName(createdBy), ticketNumber, facts, { sealed, other });
      return;
    }
    if (row.extract) {
      await startExtract(inName(row.createdBy), { number: row.ticketNumber }, row.extract);
      return;
    }
    const armed = this.#armed.get(row.id, now);
    const archive = await presentArchiveOf(this.#shop.db, row);
    if (!armed || !archive) return;
    await beginBackup(inName(armed.by), row.ticketNumber, {
      mode: 'everything',
      choice: {},
      encrypted: true,
      accepted: [],
      rackId: null,
      archiveId: archive.id,
      fromDesk: false,
      password: armed.password.use(),
      passwordHolder: 'shop',
      reminder: '',
    });
  }
}

/** What changes on the customer's server is not told here: it is looked for when the device comes, and now and then while it stays. */
const LOOKED_AGAIN_MS = 4 * 3_600_000;
const restedSince = ({ lastDone }: RegularRow, now: Date): boolean =>
  lastDone === null || now.getTime() - lastDone.getTime() > LOOKED_AGAIN_MS;

function workName({ extract, sync }: Pick<RegularRow, 'extract' | 'sync'>): string {
  if (sync !== null) return 'Kept in step';
  return extract
    ? `Regular open file (${extractSetName(extract.what.set).toLowerCase()})`
    : 'Regular backups';
}

/** The shop's clock is that of its computer. */
const clock = { zone: Intl.DateTimeFormat().resolvedOptions().timeZone };
