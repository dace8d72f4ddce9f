import { Failure, type AdapterSite } from '@bright-cellar/core';
import { DeviceLink, LinkError } from '@bright-cellar/device-link';
import type { Database } from '../database/connect.js';
import { namedAdapter } from '../database/schema.js';
import { activeOperations } from '../engine/index.js';
import { openSecret, sealSecret } from '../kernel/installation.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { describeError, type Log } from '../log.js';
import type { Context } from '../shop.js';
import { turnLinkOrder } from './orders.js';

/** There is one row. */
const ID = 1;
/** An adapter that says nothing for so long is none. */
const ANSWERS_WITHIN_MS = 5_000;

/** Where the adapter is that the shop named, without its token; null where it is the program's own. */
export async function namedAddress(db: Pick<Database, 'select'>): Promise<string | null> {
  const [row] = await db.select({ address: namedAdapter.address }).from(namedAdapter);
  return row?.address ?? null;
}

/** The adapter that is asked: the one that was named, else the program's own. */
export async function adapterNow(
  db: Pick<Database, 'select'>,
  own: AdapterSite,
  log: Log,
): Promise<AdapterSite> {
  const [row] = await db.select().from(namedAdapter);
  if (!row) return own;
  try {
    return { address: row.address, token: openSecret(row.token) };
  } catch (error) {
    // A catalogue that was restored on another computer: what it named is for somebody to name again.
    log.warn({ error: describeError(error) }, 'the token of the adapter was sealed elsewhere');
    return own;
  }
}

/**
 * Names another adapter, once it answers, and asks it from now on.
 * @returns how many berths it has
 * @throws Failure `device-busy` while work goes on at the bench, `adapter-not-taken` where it does not answer as one
 */
export async function nameAdapter(
  context: Context,
  site: AdapterSite,
): Promise<{ berths: number }> {
  await mustBeIdle(context.db);
  const berths = await berthsOf(site);
  const row = { address: site.address, token: sealSecret(site.token) };
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .insert(namedAdapter)
      .values({ id: ID, ...row })
      .onDuplicateKeyUpdate({ set: row });
    unit.note({ action: 'settings-changed', what: `Devices are reached at ${site.address} now.` });
    unit.changed('settings');
  });
  await turn(context, site);
  return { berths };
}

/** Asks the program's own adapter again. @throws Failure `device-busy` while work goes on at the bench */
export async function takeOwnAdapter(context: Context, own: AdapterSite): Promise<void> {
  await mustBeIdle(context.db);
  await unitOfWork(context, async (unit) => {
    await unit.tx.delete(namedAdapter);
    const what = 'Devices are reached by the program’s own adapter again.';
    unit.note({ action: 'settings-changed', what });
    unit.changed('settings');
  });
  await turn(context, own);
}

async function turn({ bench, orders }: Context, site: AdapterSite): Promise<void> {
  bench.turnTo(site);
  // One that does not answer now asks for itself when it begins.
  await orders.ask(turnLinkOrder, {}).catch(() => undefined);
}

async function mustBeIdle(db: Database): Promise<void> {
  const [first] = (await activeOperations(db)).filter(({ deviceId }) => deviceId !== null);
  if (!first) return;
  throw new Failure('device-busy', {
    what: `Work goes on with ${first.deviceName ?? 'a device'}.`,
    safe: 'It goes on, and the adapter is the one it was.',
    next: 'Wait until it is done, or stop it.',
  });
}

/** How many berths an adapter has, by what it says first. @throws Failure `adapter-not-taken` */
async function berthsOf(site: AdapterSite): Promise<number> {
  const signal = AbortSignal.timeout(ANSWERS_WITHIN_MS);
  try {
    for await (const event of new DeviceLink(site).events(signal)) {
      if (event.type === 'bench') return event.berths;
    }
    throw new LinkError('no-answer');
  } catch (cause) {
    const isRefused = cause instanceof LinkError && cause.code === 'not-authorised';
    throw new Failure(
      'adapter-not-taken',
      isRefused
        ? { what: 'An adapter is there, and does not let this token in.' }
        : { what: 'No adapter answers there.' },
      { cause },
    );
  }
}
