import type { Care as CareView } from '@bright-cellar/contract';
import {
  archiveLock,
  definitionOf,
  dueSince,
  Failure,
  isWithin,
  type CareRules,
} from '@bright-cellar/core';
import { and, asc, eq, inArray, isNull, lt, or, type SQL } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { CHECKED_INDEX, copies, racks } from '../database/schema.js';
import { activeOperations, isHeld } from '../engine/index.js';
import { inTheNameOf, theProgram } from '../kernel/actor.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { forgetByAge, owedHere } from '../keep/index.js';
import { describeError, type Log } from '../log.js';
import { goOnDisposing, startCheck, startCopy } from '../operations/index.js';
import { readSettings, whoDecided } from '../settings/index.js';
import type { Context, Shop } from '../shop.js';
import { countOwed, listOwed } from './owed.js';

const LOOK_EVERY_MS = 20_000;
/** What could not be started is tried again on another night, or when it is asked for. */
const REST_MS = 3_600_000;
/** What is owed its end is tried again after so long. */
const AGAIN_MS = 30_000;
const SHOWN = 60;
const shopClock = { zone: Intl.DateTimeFormat().resolvedOptions().timeZone };

/**
 * Looks after what is kept: makes copies that the house rules ask for and checks that are due, one after the other, in quiet
 * hours or when somebody says so. Work on devices comes first in any case: these give way.
 */
export class Care {
  readonly #shop: Shop;
  readonly #log: Log;
  readonly #byItself: boolean;
  /** What could not be started, by archive or copy, and when that was. */
  readonly #refused = new Map<string, number>();
  #paying = false;
  #forgotAt = -Infinity;
  #looking = false;

  /** @param byItself whether quiet hours are enough to begin */
  constructor(shop: Shop, log: Log, byItself: boolean) {
    this.#byItself = byItself;
    this.#shop = shop;
    this.#log = log;
  }

  /** Looks at the clock and at what is owed now and then, until aborted. */
  follow(signal: AbortSignal): void {
    const timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    signal.addEventListener('abort', () => clearInterval(timer));
  }

  /** Something ended: the next need not wait. */
  wake(): void {
    void this.look();
  }

  /** Starts the next piece of work that is owed, where it is time for it and none is under way. */
  async look(): Promise<void> {
    if (this.#looking) return;
    this.#looking = true;
    try {
      await this.#next();
    } catch (error) {
      this.#log.warn({ error: describeError(error) }, 'what is owed could not be looked at');
    } finally {
      this.#looking = false;
    }
  }

  /** Of the first so many that are owed a copy, those whose copy cannot be made now, and why; and how many checks are due. */
  async waits(atMost: number) {
    const { db } = this.#shop;
    const { care } = await readSettings(db);
    const [owed, checksDue] = await Promise.all([listOwed(db, care, atMost), this.#countDue(care)]);
    return {
      waiting: owed.flatMap(({ row: { archiveId, deviceName }, next }) =>
        'why' in next ? [{ archiveId, deviceName, why: next.why }] : [],
      ),
      checksDue,
    };
  }

  async view(): Promise<CareView> {
    const { db } = this.#shop;
    const rules = (await readSettings(db)).care;
    const [counted, owed, checksDue] = await Promise.all([
      countOwed(db, rules),
      listOwed(db, rules, SHOWN),
      this.#countDue(rules),
    ]);
    return {
      owed: {
        ...counted,
        rows: owed.map(({ row, next, ...one }) => ({
          ...{ archiveId: row.archiveId, deviceName: row.deviceName },
          ...{ customerName: row.customerName, storedBytes: row.storedBytes },
          ...one,
          rackName: 'rack' in next ? next.rack.name : null,
          why: 'why' in next ? next.why : null,
        })),
      },
      checksDue,
      paying: this.#paying,
    };
  }

  /** Makes what copies can be made, from now on and one after the other. */
  async pay(): Promise<CareView> {
    this.#refused.clear();
    await this.#setPaying(true);
    await this.look();
    return this.view();
  }

  async #next(): Promise<void> {
    const { db, clock } = this.#shop;
    await this.#destroyOwed();
    const rules = (await readSettings(db)).care;
    const now = clock.now();
    const isQuiet = this.#byItself && isWithin(rules.quietHours, now, shopClock);
    if (!isQuiet && !this.#paying) return;
    const running = await activeOperations(db);
    if (running.some(({ kind }) => definitionOf(kind).givesWay)) return;
    if ((this.#paying || rules.copiesByThemselves) && (await this.#copyNext(rules))) return;
    if (this.#paying) await this.#setPaying(false);
    if (!isQuiet) return;
    await this.#forgetOld(now);
    await this.#checkNext(rules, now);
  }

  /** Names of customers whose time is over by the house rules, and of whom nothing is kept. */
  async #forgetOld(now: Date): Promise<void> {
    if (now.getTime() - this.#forgotAt < REST_MS) return;
    this.#forgotAt = now.getTime();
    await forgetByAge(this.#shop);
  }

  /** What was decided to be destroyed and lies on a rack that is here: at any hour, beside whatever runs. */
  async #destroyOwed(): Promise<void> {
    const { db } = this.#shop;
    for (const { by, ...disposal } of await owedHere(db)) {
      // It is being destroyed, or somebody is just leaving it.
      if (await isHeld(db, archiveLock(disposal.archiveId, 'shared'))) continue;
      const begin = (context: Context) => goOnDisposing(context, disposal);
      await this.#startedFor(by, `disposal ${disposal.id}`, begin, AGAIN_MS);
    }
  }

  async #setPaying(paying: boolean): Promise<void> {
    this.#paying = paying;
    await unitOfWork({ ...this.#shop, actor: theProgram }, async (unit) => unit.changed('care'));
  }

  /** @returns whether one was started */
  async #copyNext(rules: CareRules): Promise<boolean> {
    for (const { row, next } of await listOwed(this.#shop.db, rules, SHOWN, 'here')) {
      if (!('rack' in next)) continue;
      const body = { rackId: next.rack.id };
      const begun = await this.#started(`${row.archiveId} ${body.rackId}`, (context) =>
        startCopy(context, { id: row.archiveId }, body),
      );
      if (begun) return true;
    }
    return false;
  }

  async #checkNext(rules: CareRules, now: Date): Promise<void> {
    const { db } = this.#shop;
    const due = await isDue(db, rules, now);
    if (!due) return;
    // The oldest look first: those of which nothing is known before all others.
    for (const { id } of await copiesWhere(db, due, SHOWN)) {
      if (await this.#started(id, (context) => startCheck(context, { id }, {}))) return;
    }
  }

  async #countDue(rules: CareRules): Promise<number> {
    const { db, clock } = this.#shop;
    const due = await isDue(db, rules, clock.now());
    return due ? db.$count(copiesWhere(db, due, MOST_COUNTED).as('due')) : 0;
  }

  /** In the name of who decided the house rules. What is refused now rests a while. */
  async #started(what: string, start: (context: Context) => Promise<unknown>): Promise<boolean> {
    const by = await whoDecided(this.#shop.db);
    return by !== null && this.#startedFor(by, what, start, REST_MS);
  }

  async #startedFor(
    by: string,
    what: string,
    start: (context: Context) => Promise<unknown>,
    restMs: number,
  ): Promise<boolean> {
    const now = this.#shop.clock.now().getTime();
    if (now - (this.#refused.get(what) ?? -Infinity) < restMs) return false;
    try {
      await start({ ...this.#shop, actor: inTheNameOf(by) });
      // It comes round again where that did not help.
      this.#refused.set(what, now);
      return true;
    } catch (error) {
      if (!(error instanceof Failure)) throw error;
      this.#refused.set(what, now);
      this.#log.info({ error: describeError(error) }, 'what is owed could not be started');
      return false;
    }
  }
}

/** More is told as so many. */
const MOST_COUNTED = 1_000;

/** What a copy is by that is here and due for a look; null where none can be. */
async function isDue(db: Database, rules: CareRules, now: Date): Promise<SQL | null> {
  const since = dueSince(rules, now);
  if (!since) return null;
  const here = await db
    .select({ id: racks.id })
    .from(racks)
    .where(and(eq(racks.present, true), isNull(racks.retiredAt)));
  if (here.length === 0) return null;
  const ids = here.map(({ id }) => id);
  const unseen = or(isNull(copies.checkedAt), lt(copies.checkedAt, since));
  return and(inArray(copies.rackId, ids), unseen) ?? null;
}

/** Some of them. Read from its index alone, in its very order. */
const copiesWhere = (db: Database, due: SQL, atMost: number) =>
  db
    .select({ id: copies.id })
    .from(copies, { forceIndex: CHECKED_INDEX })
    .where(due)
    .orderBy(asc(copies.checkedAt))
    .limit(atMost);
