import { join } from 'node:path';
import { diskFailure, OpenArchive, withPassword } from '@bright-cellar/archive';
import {
  agreedFrom,
  countOf,
  dataClasses,
  dataClassIds,
  Failure,
  lookInEndings,
  type DataClass,
  type LookInEnding,
  type RackId,
} from '@bright-cellar/core';
import type { Picked } from '@bright-cellar/core/crossing';
import type { TakeOut } from '@bright-cellar/contract';
import { and, eq, gt, inArray, isNull, sql } from 'drizzle-orm';
import type { z } from 'zod';
import { agreementsOf } from '../agreements/index.js';
import { lookIns, sessions, technicians, tickets } from '../database/schema.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { describeError, type Log } from '../log.js';
import { archiveAt, EXTRACTS, folderOf, rackHere } from '../racks/index.js';
import { inNewFolder, writeOntoRack } from './onto-rack.js';
import type { LookedArchive } from './looked.js';
import type { beginLookInOrder, OtherArchive } from './orders.js';

const SWEEP_EVERY_MS = 2_000;

interface Open {
  looked: LookedArchive;
  technicianId: string;
  session: string;
  ticketId: string;
  backupId: string;
  usedAt: number;
  shown: number;
  opened: number;
  /** Files that were taken out. */
  taken: number;
  /** Classes of which anything was shown. */
  classes: Set<DataClass>;
}

/** How much is shown by an answer, and of what. */
export interface Counted {
  shown?: number;
  opened?: number;
  of?: readonly DataClass[];
}

/**
 * The look-ins that are open, in the work process: their keys are nowhere else. Each closes when its reader says so, when nobody
 * reads on, and when its ticket, its reader's sign-in, the customer's agreement or this process ends.
 */
export class LookIns {
  readonly #acting: Acting;
  readonly #log: Log;
  readonly #idle: () => Promise<number>;
  #idleMs = 0;
  readonly #open = new Map<string, Open>();
  readonly #sweeping: NodeJS.Timeout;

  /** @param idle after how long one closes in which nobody reads on, ms; asked anew, since somebody may decide otherwise */
  constructor(acting: Acting, log: Log, idle: () => Promise<number>) {
    this.#acting = acting;
    this.#log = log;
    this.#idle = idle;
    this.#sweeping = setInterval(() => {
      this.#sweep().catch((error: unknown) =>
        this.#log.error({ error: describeError(error) }, 'look-ins could not be looked after'),
      );
    }, SWEEP_EVERY_MS).unref();
  }

  /** Those of a process that ended without a word are over. Before anybody is let in. */
  async recover(): Promise<void> {
    const left = await this.#acting.db
      .select({ id: lookIns.id })
      .from(lookIns)
      .where(isNull(lookIns.endedAt));
    for (const { id } of left) if (!this.#open.has(id)) await this.#record(id, 'stopped', null);
  }

  /** @returns which it is: where the same person has it open in the same sign-in, that, with what is in hand */
  async begin(asked: z.output<(typeof beginLookInOrder)['asks']>): Promise<string> {
    const { id, technicianId, session, ticketId, archiveId, backupId, reason, password } = asked;
    const files = await archiveAt(this.#acting.db, asked);
    this.#idleMs = await this.#idle();
    const archive = await OpenArchive.open(files, withPassword(password), { lease: 'shared' });
    const known = [...this.#open].find(
      ([, one]) =>
        one.technicianId === technicianId && one.session === session && one.backupId === backupId,
    );
    if (known) {
      await archive.close();
      known[1].usedAt = performance.now();
      return known[0];
    }
    // Parsers of all that may lie in a backup take longer to load than the rest of this program.
    const { LookedArchive } = await import('./looked.js');
    const looked = await LookedArchive.begin(archive, backupId, () => this.#acting.clock.now());
    try {
      await unitOfWork(this.#acting, async (unit) => {
        await unit.tx.insert(lookIns).values({
          ...{ id, archiveId, backupId, ticketId, technicianId, reason, openedAt: unit.now },
        });
        const what = `A look into a backup was begun. What for: ${reason}`;
        unit.note({ action: 'look-in-begun', what, ticketId, technicianId });
        unit.changed('look-in');
      });
    } catch (error) {
      await looked.close();
      throw error;
    }
    const usedAt = performance.now();
    this.#open.set(id, {
      looked,
      technicianId,
      session,
      ticketId,
      backupId,
      usedAt,
      shown: 0,
      opened: 0,
      taken: 0,
      classes: new Set(),
    });
    void looked.reading.then(() => {
      if (looked.amounts().isCut) this.#log.warn({ archiveId }, 'the list of a backup is damaged');
    });
    return id;
  }

  /** Another archive, to be compared with. @throws Failure `wrong-password`, `archive-not-here`, `archive-damaged` */
  async openOther({ password, ...place }: OtherArchive): Promise<OpenArchive> {
    const files = await archiveAt(this.#acting.db, place);
    return OpenArchive.open(files, withPassword(password), { lease: 'shared' });
  }

  /** When each closes itself. */
  open(): { id: string; closesAt: string }[] {
    const now = this.#acting.clock.now().getTime();
    return [...this.#open].map(([id, { usedAt }]) => ({
      id,
      closesAt: new Date(now + this.#idleMs - (performance.now() - usedAt)).toISOString(),
    }));
  }

  /**
   * What is in it, for whoever looks; it stays open for that much longer.
   * @param counts how many items are shown by what is asked
   * @throws Failure `look-in-over`, also to anybody else
   */
  async read<T>(
    { id, technicianId }: { id: string; technicianId: string },
    ask: (looked: LookedArchive) => T | Promise<T>,
    counts: (answer: T) => Counted = () => ({}),
  ): Promise<T> {
    const one = this.#open.get(id);
    if (one?.technicianId !== technicianId) throw new Failure('look-in-over');
    one.usedAt = performance.now();
    let answer: T;
    try {
      answer = await ask(one.looked);
    } catch (error) {
      // What was closed meanwhile fails in some way or other.
      throw this.#open.has(id)
        ? diskFailure(error)
        : new Failure('look-in-over', {}, { cause: error });
    }
    const { shown = 0, opened = 0, of = [] } = counts(answer);
    one.shown += shown;
    one.opened += opened;
    if (shown + opened > 0) for (const dataClass of of) one.classes.add(dataClass);
    return answer;
  }

  /** What is in hand in one, for work that its reader started. @throws Failure `look-in-over` */
  async inHand(id: string): Promise<Picked> {
    const one = this.#open.get(id);
    if (!one) throw new Failure('look-in-over');
    one.usedAt = performance.now();
    return one.looked.picked();
  }

  /**
   * Bytes of what is in it, for whoever looks; it stays open while they are told, and they end with it.
   * @throws Failure `look-in-over`, also to anybody else
   */
  async stream<Told extends { head: unknown; bytes: AsyncIterable<Uint8Array> }>(
    asked: { id: string; technicianId: string },
    ask: (looked: LookedArchive) => Told,
    counts: (told: Told) => Counted = () => ({}),
  ): Promise<{ head: Told['head']; bytes: AsyncIterable<Uint8Array> }> {
    const { head, bytes } = await this.read(asked, ask, counts);
    return { head, bytes: this.#whileOpen(asked.id, bytes) };
  }

  async *#whileOpen(id: string, bytes: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    for await (const piece of bytes) {
      const one = this.#open.get(id);
      if (!one) throw new Failure('look-in-over');
      one.usedAt = performance.now();
      yield piece;
    }
  }

  /**
   * What is taken out, for whoever looks; on record once it was told, or as far as it was.
   * @throws Failure `look-in-over`, `not-found`
   */
  async takeOut(asked: { id: string; technicianId: string; takeOut: string }) {
    const { clock } = this.#acting;
    const { head, bytes } = await this.stream(asked, (looked) =>
      looked.takeOuts.open(asked.takeOut, clock.now()),
    );
    return { head, bytes: this.#onRecord(asked, bytes) };
  }

  async *#onRecord(
    asked: { id: string; takeOut: string },
    bytes: AsyncIterable<Uint8Array>,
  ): AsyncGenerator<Uint8Array> {
    const one = this.#open.get(asked.id);
    try {
      yield* bytes;
    } finally {
      if (one)
        await this.#noteTaken(one, asked.takeOut, '; whoever fetched it hung up before its end');
    }
  }

  /** @param cut what is said of it where it is not whole */
  async #noteTaken(one: Open, takeOut: string, cut: string): Promise<void> {
    const { state, taken, failed, wrote } = one.looked.takeOuts.state(takeOut);
    one.taken += taken;
    const where = wrote === null ? '' : ', onto a rack';
    await unitOfWork(this.#acting, async (unit) =>
      unit.note({
        action: 'look-taken-out',
        what: `${countOf(taken, 'file')} were taken out of a backup that is looked into${where}, ${failed.length} failed${state === 'done' ? '' : cut}.`,
        ...{ ticketId: one.ticketId, technicianId: one.technicianId },
      }),
    );
  }

  /**
   * Begins to write what is taken out into a new folder of a rack; the look-in stays open while it is written, and that ends with it.
   * @returns how it goes, to begin with
   * @throws Failure `look-in-over`, `not-found`, `rack-not-here`
   */
  async takeOutToRack(asked: {
    id: string;
    technicianId: string;
    takeOut: string;
    rackId: RackId;
  }): Promise<TakeOut> {
    const { db, clock } = this.#acting;
    const one = await this.read(asked, () => this.#open.get(asked.id));
    if (!one) throw new Failure('look-in-over');
    const root = folderOf(await rackHere(db, asked.rackId));
    const [ticket] = await db
      .select({ number: tickets.number })
      .from(tickets)
      .where(eq(tickets.id, one.ticketId));
    if (!ticket) throw new Failure('not-found');
    const stamp = clock.now().toISOString().slice(0, 19).replaceAll(/[:T]/g, '-');
    const { takeOuts } = one.looked;
    const wanted = join(EXTRACTS, ticket.number, `taken-out-${stamp}`);
    const { folder, files } = await inNewFolder(root, wanted, (made) => ({
      folder: made,
      files: takeOuts.files(asked.takeOut, clock.now(), made),
    }));
    const goesOn = () => {
      if (!this.#open.has(asked.id)) throw new Failure('look-in-over');
      one.usedAt = performance.now();
    };
    void writeOntoRack({ root, folder }, files, goesOn)
      .then(
        () => files.ended(true),
        (error: unknown) => {
          files.ended(false);
          this.#log.warn({ error: describeError(error) }, 'taking out onto a rack ended early');
        },
      )
      .then(() => this.#noteTaken(one, asked.takeOut, '; it ended early'))
      .catch((error: unknown) =>
        this.#log.error({ error: describeError(error) }, 'what was taken out is not on record'),
      );
    return takeOuts.state(asked.takeOut);
  }

  /** @throws Failure `look-in-over` to anybody but whoever looks */
  async end({ id, technicianId }: { id: string; technicianId: string }): Promise<void> {
    if (this.#open.get(id)?.technicianId !== technicianId) throw new Failure('look-in-over');
    await this.#end(id, 'closed');
  }

  async close(): Promise<void> {
    clearInterval(this.#sweeping);
    for (const id of [...this.#open.keys()]) await this.#end(id, 'stopped').catch(() => undefined);
  }

  async #end(id: string, ending: LookInEnding): Promise<void> {
    const one = this.#open.get(id);
    if (!one) return;
    // Nobody reads in it from here on, whatever becomes of what is written down.
    this.#open.delete(id);
    await one.looked.close();
    await this.#record(id, ending, one);
  }

  async #record(
    id: string,
    ending: LookInEnding,
    amounts: Pick<Open, 'shown' | 'opened' | 'taken' | 'classes'> | null,
  ): Promise<void> {
    const { shown, opened, taken } = amounts ?? { shown: 0, opened: 0, taken: 0 };
    await unitOfWork(this.#acting, async (unit) => {
      const [row] = await unit.tx.select().from(lookIns).where(eq(lookIns.id, id)).for('update');
      if (row?.endedAt !== null) return;
      await unit.tx
        .update(lookIns)
        .set({ endedAt: unit.now, ending, shown, opened, taken })
        .where(eq(lookIns.id, id));
      const much = amounts
        ? `${shown} shown, ${opened} opened by themselves, ${taken} taken out${ofClasses(amounts.classes)}`
        : 'how much was shown is not known';
      unit.note({
        action: 'look-in-ended',
        what: `A look into a backup was ${lookInEndings[ending]}; ${much}.`,
        ticketId: row.ticketId,
        technicianId: row.technicianId,
      });
      unit.changed('look-in');
    });
  }

  async #sweep(): Promise<void> {
    if (this.#open.size === 0) return;
    this.#idleMs = await this.#idle();
    for (const [id, { usedAt }] of this.#open) {
      if (performance.now() - usedAt > this.#idleMs) await this.#end(id, 'idle');
    }
    if (this.#open.size === 0) return;
    const open = [...this.#open];
    const { db, clock } = this.#acting;
    const ticketIds = open.map(([, { ticketId }]) => ticketId);
    const [closed, good, said] = await Promise.all([
      db
        .select({ id: tickets.id })
        .from(tickets)
        .where(and(inArray(tickets.id, ticketIds), sql`${tickets.closedAt} is not null`)),
      db
        .select({ session: sessions.tokenHash })
        .from(sessions)
        .innerJoin(technicians, eq(technicians.id, sessions.technicianId))
        .where(
          and(
            inArray(
              sessions.tokenHash,
              open.map(([, { session }]) => session),
            ),
            gt(sessions.expiresAt, clock.now()),
            isNull(technicians.leftAt),
          ),
        ),
      agreementsOf(db, ticketIds),
    ]);
    for (const [id, { ticketId, session }] of open) {
      const agreed = agreedFrom(said.filter((one) => one.ticketId === ticketId));
      if (closed.some((ticket) => ticket.id === ticketId)) await this.#end(id, 'ticket');
      else if (!good.some((one) => one.session === session)) await this.#end(id, 'signed-out');
      else if (!agreed.lookIn) await this.#end(id, 'agreement');
    }
  }
}

/** Of which classes, in words; nothing where nothing was shown. */
const ofClasses = (shown: ReadonlySet<DataClass>): string => {
  const names = dataClassIds.filter((one) => shown.has(one)).map((one) => dataClasses[one]);
  return names.length === 0 ? '' : `; of ${names.join(', ').toLowerCase()}`;
};
