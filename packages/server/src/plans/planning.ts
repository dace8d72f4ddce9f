import {
  choiceOf,
  drawSample,
  estimateStored,
  estimateTime,
  formatBytes,
  groupKey,
  isChosen,
  linkModel,
  linkRate,
  linkTime,
  possibleTwins,
  type Choice,
  type ClassAmount,
  type DataClass,
  type DeviceFacts,
  type Estimate,
  type PastRun,
  type PastTime,
  type PlanMode,
  type PlannedClass,
  type Range,
  type SampledItem,
  type LinkDeviceId,
} from '@bright-cellar/core';
import type { PlanCost, Rack } from '@bright-cellar/contract';
import type { Entry, Group } from '@bright-cellar/device-link';
import { and, desc, eq, isNotNull, sql } from 'drizzle-orm';
import type { Database } from '../database/connect.js';
import { backups, operations } from '../database/schema.js';
import { agreedOf } from '../agreements/index.js';
import { archiveName } from '../archives/index.js';
import type { BenchWatch } from '../bench/index.js';
import { resultOf } from '../engine/index.js';
import type { OrderClient } from '../engine/order-client.js';
import type { Clock } from '../kernel/clock.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { racksNow } from '../racks/index.js';
import type { Context } from '../shop.js';
import { ticketForWork } from '../tickets/index.js';
import { givenOut, listingView, Listings, type Listed } from './listings.js';
import { measureOrder } from './orders.js';

export interface Scope {
  mode: PlanMode;
  choice: Choice;
  encrypted: boolean;
}

const sameScope = (a: Scope, b: Scope) =>
  a.mode === b.mode &&
  a.encrypted === b.encrypted &&
  (a.mode !== 'chosen' || JSON.stringify(a.choice) === JSON.stringify(b.choice));

/** Of the shop's past, how many runs an estimate looks at. */
const PAST_RUNS = 40;

/** What planning asks. */
interface Sources {
  db: Database;
  bench: BenchWatch;
  orders: OrderClient;
  clock: Clock;
}

/** Deciding what is taken: what there is, what it would cost, and what was decided before. */
export class Planning {
  readonly #shop: Sources;
  readonly #listings: Listings;
  /** The last estimate of each ticket, for when it is started. */
  readonly #costs = new Map<
    string,
    { scope: Scope; revision: string | null; archiveId: string | null; estimate: Estimate }
  >();

  constructor(shop: Sources) {
    this.#shop = shop;
    this.#listings = new Listings(shop.bench.link);
  }

  forget(deviceId: LinkDeviceId): void {
    this.#listings.forget(deviceId);
  }

  /** Everything on a ticket's device. Noted: it shows what a customer has. */
  async listing(context: Context, number: string) {
    const { ticket, device } = await ticketForWork(context.db, number);
    const facts = await context.bench.presentDevice(device.serial);
    const { lookIn } = await agreedOf(context.db, ticket.id);
    const listed = await this.#listings.of(facts);
    await noteOnly(context, {
      ticketId: ticket.id,
      action: 'contents-listed',
      what: lookIn
        ? 'The device’s items were listed with their names, to choose from.'
        : 'The device’s items were listed without names, to choose from.',
    });
    return listingView(listed, lookIn);
  }

  /** A device's contents as they are listed now. @throws Failure `device-not-ready`, `device-left` */
  listed(facts: DeviceFacts): Promise<Listed> {
    return this.#listings.of(facts);
  }

  /** How much of each class a choice takes of what the device would give out. */
  async chosen(
    facts: DeviceFacts,
    choice: Choice,
    encrypted: boolean,
  ): Promise<{ entries: Entry[]; classes: ClassAmount[]; groups: readonly Group[] }> {
    const listed = await this.#listings.of(facts);
    const sealed = new Set(
      listed.groups.filter((g) => g.sealed).map((g) => groupKey(g.class, g.id)),
    );
    const entries = givenOut(facts, listed, encrypted).filter(
      (e) => isChosen(choice, e) && !sealed.has(groupKey(e.class, e.group)),
    );
    return { entries, classes: amountsOf(entries), groups: listed.groups };
  }

  /** How large and how long a backup would be, and where it would go. */
  async cost(number: string, scope: Scope): Promise<PlanCost> {
    const { db, bench } = this.#shop;
    const { device, customer } = await ticketForWork(db, number);
    const facts = await bench.presentDevice(device.serial);
    const choice = choiceOf(scope.mode, scope.choice);
    const { entries } = await this.chosen(facts, choice, scope.encrypted);
    const { estimate, planned, sample, pastRuns } = await this.#estimate(facts, entries);
    this.#costs.set(number, { scope, revision: facts.contentRevision, archiveId: null, estimate });
    const { perItem, perByte } = linkModel(sample);
    return {
      estimate,
      classes: planned.map(({ class: dataClass, items, bytes, duplicateShare }) => ({
        class: dataClass,
        items,
        bytes,
        storedBytes: estimateStored([{ class: dataClass, items, bytes, duplicateShare }], sample)
          .likely,
        ms: items * perItem + bytes * perByte,
      })),
      linkRate: linkRate(sample),
      pastRuns,
      ...roomFor(
        (await racksNow(db)).filter(({ mounted }) => mounted !== null),
        estimate,
      ),
      name: await archiveName(db, number, customer.name, facts, estimate.at),
    };
  }

  /**
   * How large and how long a further backup would be.
   * @param ids of what the archive does not have as it is
   */
  async furtherCost(
    number: string,
    scope: Scope,
    facts: DeviceFacts,
    archiveId: string,
    ids: readonly string[],
  ): Promise<Estimate> {
    const toSend = new Set(ids);
    const { entries } = await this.chosen(
      facts,
      choiceOf(scope.mode, scope.choice),
      scope.encrypted,
    );
    const { estimate } = await this.#estimate(
      facts,
      entries.filter((entry) => toSend.has(entry.id)),
      true,
    );
    this.#costs.set(number, { scope, revision: facts.contentRevision, archiveId, estimate });
    return estimate;
  }

  async #estimate({ id }: DeviceFacts, entries: readonly Entry[], isFurther = false) {
    const { sample, duplicates } = await this.#sample(id, entries);
    const planned: PlannedClass[] = amountsOf(entries).map((c) => ({
      ...c,
      duplicateShare: duplicates(c.class),
    }));
    const past = await pastRuns(this.#shop.db, !isFurther);
    const linkMs = linkTime(planned, sample);
    const estimate: Estimate = {
      at: this.#shop.clock.now().toISOString(),
      items: entries.length,
      bytes: planned.reduce((sum, c) => sum + c.bytes, 0),
      stored: estimateStored(
        planned,
        sample,
        past.map((p) => p.stored),
      ),
      ms: estimateTime(
        linkMs,
        past.map((p) => p.time),
      ),
      linkMs,
    };
    return { estimate, planned, sample, pastRuns: past.length };
  }

  /** What was expected of a backup that is about to start; null when nobody estimated just this one. */
  estimateFor(
    number: string,
    wanted: Scope & { archiveId: string | null },
    { contentRevision }: Pick<DeviceFacts, 'contentRevision'>,
  ): Estimate | null {
    const known = this.#costs.get(number);
    return known?.revision === contentRevision &&
      known.archiveId === wanted.archiveId &&
      sameScope(known.scope, wanted)
      ? known.estimate
      : null;
  }

  async #sample(deviceId: LinkDeviceId, entries: readonly Entry[]) {
    const drawn = drawSample(entries, Math.random);
    const { twins, twinBytes } = possibleTwins(entries, Math.random);
    const wanted = [...new Set([...drawn, ...twins.flat()])];
    const measured = new Map(
      (await this.#shop.orders.ask(measureOrder, { device: deviceId, entries: wanted })).map(
        (m) => [m.id, m],
      ),
    );
    const sample: SampledItem[] = drawn.flatMap((entry) => {
      const found = measured.get(entry.id);
      return found ? [{ class: entry.class, ...found }] : [];
    });
    const pairs = twins.flatMap(([a, b]) => {
      const [first, second] = [measured.get(a.id), measured.get(b.id)];
      return first && second ? [first.digest === second.digest] : [];
    });
    const same = pairs.length > 0 ? pairs.filter(Boolean).length / pairs.length : 0;
    const byClass = new Map<DataClass, number>();
    for (const { class: c, bytes } of entries) byClass.set(c, (byClass.get(c) ?? 0) + bytes);
    return {
      sample,
      duplicates: (dataClass: DataClass) =>
        (same * (twinBytes.get(dataClass) ?? 0)) / Math.max(1, byClass.get(dataClass) ?? 1),
    };
  }
}

function amountsOf(entries: readonly Entry[]): ClassAmount[] {
  const amounts = new Map<DataClass, { items: number; bytes: number }>();
  for (const { class: dataClass, bytes } of entries) {
    const known = amounts.get(dataClass) ?? { items: 0, bytes: 0 };
    amounts.set(dataClass, { items: known.items + 1, bytes: known.bytes + bytes });
  }
  return [...amounts].map(([dataClass, amount]) => ({ class: dataClass, ...amount }));
}

/**
 * What was expected of the shop's last backups that went through in one go, and what they were.
 * @param ofNew those that began an archive, or those that came into one
 */
async function pastRuns(
  db: Database,
  ofNew: boolean,
): Promise<{ stored: PastRun; time: PastTime }[]> {
  const rows = await db
    .select({
      estimate: operations.estimate,
      result: operations.result,
      storedBytes: backups.storedBytes,
    })
    .from(operations)
    .innerJoin(backups, eq(backups.operationId, operations.id))
    .where(
      and(
        eq(operations.state, 'done'),
        eq(operations.kind, 'backup'),
        isNotNull(operations.estimate),
        eq(sql`json_value(${operations.input}, '$.value.isNew')`, ofNew ? '1' : '0'),
      ),
    )
    .orderBy(desc(operations.endedAt))
    .limit(PAST_RUNS);
  return rows.flatMap(({ estimate, result, storedBytes }) => {
    const workedMs = resultOf('backup', result)?.workedMs;
    return estimate && workedMs
      ? [
          {
            stored: { likely: estimate.stored.likely, actual: storedBytes },
            time: { linkMs: estimate.linkMs, actual: workedMs },
          },
        ]
      : [];
  });
}

/** Whether a rack takes so much and keeps its reserve, and what is free on it then. */
export const roomOn = (rack: Rack, stored: Range) => ({
  fits: rack.present && rack.free - stored.high > rack.reserve,
  freeAfterLow: Math.max(0, rack.free - stored.high),
  freeAfterHigh: Math.max(0, rack.free - stored.low),
});

/** Room on each rack after the backup, and the one that is proposed, with the reason. */
function roomFor(
  racks: readonly Rack[],
  { stored }: Estimate,
): Pick<PlanCost, 'racks' | 'proposal'> {
  const after = racks.map((rack) => ({ rack, ...roomOn(rack, stored) }));
  const fitting = after.filter((a) => a.fits);
  // “About” the most, so that two that are alike do not take turns while somebody is typing.
  const most = Math.max(0, ...fitting.map((a) => a.freeAfterLow));
  const best = fitting.find((a) => a.freeAfterLow >= most * 0.9);
  return {
    racks: after.map(({ rack, ...room }) => ({ rackId: rack.id, ...room })),
    proposal: best
      ? {
          rackId: best.rack.id,
          reason:
            fitting.length === 1
              ? `${best.rack.name} is the only rack with room for it.`
              : `${best.rack.name} keeps ${formatBytes(best.freeAfterLow)} free after it, as much as any.`,
        }
      : null,
  };
}
