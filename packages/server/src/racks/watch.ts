import { setTimeout as sleep } from 'node:timers/promises';
import { rackRoom, type Room } from '@bright-cellar/archive';
import { Failure } from '@bright-cellar/core';
import { eq, isNull } from 'drizzle-orm';
import { racks } from '../database/schema.js';
import { unitOfWork, type Acting } from '../kernel/unit-of-work.js';
import { describeError, type Log } from '../log.js';
import { keepDay } from './days.js';
import { mountedDrives } from './drives.js';
import { keptAddress, mountedAt } from './addresses.js';
import { storeOf } from './stores.js';

const LOOK_EVERY_MS = 3_000;
const FAR_EVERY_MS = 12_000;
/** A rack that says nothing for so long is away: a share that hangs holds up nobody. */
const PATIENCE_MS = 5_000;
/** Something is always written somewhere; less than this is no news. */
const NEWS_BYTES = 5_000_000;
/** How exactly it is known when a rack was last seen, and what room it had. */
const SEEN_EVERY_MS = 60_000;
const WHY_SIGNS = 200;

type Row = typeof racks.$inferSelect;

/** Looks at every rack again and again, and keeps with its row whether it is here and what room it has: lists ask no disk. */
export class RackWatch {
  readonly #acting: Acting;
  readonly #log: Log;
  /** Racks that did not answer yet: they are not asked a second time meanwhile. */
  readonly #asked = new Set<string>();
  /** Racks that were here at the last look. */
  readonly #here = new Set<string>();
  /** When each was asked last, ms of this process. */
  readonly #askedAt = new Map<string, number>();
  /** When the room of each was kept for its day last. */
  readonly #keptAt = new Map<string, number>();
  readonly #ask: typeof rackRoom;
  readonly #drivePlaces: () => Promise<readonly string[]>;
  #wake: () => void = () => undefined;

  /**
   * @param drivePlaces folders in which drives appear when they are mounted
   * @param roomOf asks a rack for its room
   */
  constructor(
    acting: Acting,
    log: Log,
    drivePlaces: () => Promise<readonly string[]>,
    roomOf: typeof rackRoom = rackRoom,
  ) {
    this.#ask = roomOf;
    this.#acting = acting;
    this.#log = log;
    this.#drivePlaces = drivePlaces;
  }

  async follow(signal: AbortSignal): Promise<void> {
    while (!signal.aborted) {
      const woken = new AbortController();
      this.#wake = () => woken.abort();
      await sleep(LOOK_EVERY_MS, undefined, {
        signal: AbortSignal.any([signal, woken.signal]),
      }).catch(() => undefined);
      try {
        if (!ended(signal)) await this.#lookAtThose((row) => this.#isDue(row));
      } catch (error) {
        if (!ended(signal)) this.#log.warn({ error: describeError(error) }, 'no look at the racks');
      }
    }
  }

  /** Something was written to a rack, or taken away. */
  wake(): void {
    this.#wake();
  }

  /** Looks at all of them once. */
  look(): Promise<void> {
    return this.#lookAtThose(() => true);
  }

  /** What is asked over a network is asked less often: somebody may count the questions. */
  #isDue({ id, address }: Row): boolean {
    const asked = performance.now() - (this.#askedAt.get(id) ?? -Infinity);
    return mountedAt(address) !== null || asked > FAR_EVERY_MS;
  }

  async #lookAtThose(isAsked: (row: Row) => boolean): Promise<void> {
    const all = await this.#acting.db.select().from(racks).where(isNull(racks.retiredAt));
    const rows = all.filter(isAsked);
    for (const { id } of rows) this.#askedAt.set(id, performance.now());
    await Promise.all(rows.map((row) => this.#lookAt(row)));
    const away = rows.filter(({ id }) => !this.#here.has(id));
    if (away.length > 0) await this.#findAgain(away);
  }

  /** What is carried about is mounted here today and there tomorrow: its own mark says which it is. */
  async #findAgain(away: readonly Row[]): Promise<void> {
    for (const { path, rack } of await mountedDrives(await this.#drivePlaces())) {
      const row = away.find(({ id }) => id === rack);
      if (!row) continue;
      const address = keptAddress({ kind: 'folder', path });
      await this.#acting.db.update(racks).set({ address }).where(eq(racks.id, row.id));
      // That it was not here has been written meanwhile.
      const [moved] = await this.#acting.db.select().from(racks).where(eq(racks.id, row.id));
      if (moved) await this.#lookAt(moved);
    }
  }

  async #lookAt(row: Row): Promise<void> {
    const { room, why } = this.#asked.has(row.id)
      ? { room: null, why: row.awayWhy }
      : await this.#roomOf(row);
    const now = this.#acting.clock.now();
    if (room) this.#here.add(row.id);
    else this.#here.delete(row.id);
    const seen = room
      ? { present: true, ...room, seenAt: now, awayWhy: '' }
      : { present: false, awayWhy: why };
    if (isNews(row, room) || (!room && why !== row.awayWhy)) {
      await unitOfWork(this.#acting, async (unit) => {
        await unit.tx.update(racks).set(seen).where(eq(racks.id, row.id));
        unit.changed('rack', row.id);
      });
    } else if (room && now.getTime() - (row.seenAt?.getTime() ?? 0) >= SEEN_EVERY_MS) {
      await this.#acting.db.update(racks).set(seen).where(eq(racks.id, row.id));
    }
    // Also of one whose room changes from look to look.
    const keptBefore = Math.abs(now.getTime() - (this.#keptAt.get(row.id) ?? 0));
    if (!room || keptBefore < SEEN_EVERY_MS) return;
    await keepDay(this.#acting.db, row, room.free, now);
    this.#keptAt.set(row.id, now.getTime());
  }

  /** No room where it is away. */
  async #roomOf(row: Row): Promise<{ room: Room | null; why: string }> {
    this.#asked.add(row.id);
    const answer = Promise.resolve()
      .then(() => this.#ask(storeOf(row), row.id))
      .then(
        (room) => ({ room, why: '' }),
        (error: unknown) => ({ room: null, why: whyAway(error) }),
      )
      .finally(() => this.#asked.delete(row.id));
    const late = new AbortController();
    try {
      return await Promise.race([
        answer,
        sleep(PATIENCE_MS, silent, { signal: late.signal, ref: false }).catch(() => silent),
      ]);
    } finally {
      late.abort();
    }
  }
}

const silent = { room: null, why: '' };

const USUAL = new Failure('rack-not-here').problem.what;

/** What a rack says of itself; nothing where it is just not there. */
function whyAway(error: unknown): string {
  const what = error instanceof Failure ? error.problem.what : '';
  return what === USUAL ? '' : what.slice(0, WHY_SIGNS);
}

function isNews(row: Row, room: Room | null): boolean {
  if (room === null) return row.present;
  const isOther = !row.present || room.capacity !== row.capacity;
  return isOther || Math.abs(room.free - row.free) >= NEWS_BYTES;
}

/** Asked through a function, since it changes while something else is awaited. */
const ended = (signal: AbortSignal): boolean => signal.aborted;
