import { Failure, problemOf, type DeviceId, type ArchiveId } from '@bright-cellar/core';
import { mustBeRack } from '@bright-cellar/archive';
import { and, eq, inArray, isNotNull } from 'drizzle-orm';
import { z } from 'zod';
import type { Database } from '../database/connect.js';
import { archives, copies, racks, settings, technicians } from '../database/schema.js';
import { agreedOf } from '../agreements/index.js';
import {
  newEscrowOrder,
  openByEscrowOrder,
  copyToChange,
  withdrawEscrowOrder,
} from '../archives/index.js';
import { noteOnly, unitOfWork, type Unit } from '../kernel/unit-of-work.js';
import { verifyTechnician } from '../people/index.js';
import { storeOf } from '../racks/index.js';
import { readDecided, type Decided } from '../settings/index.js';
import type { Context, Shop } from '../shop.js';
import { mustBeStrong } from '../kernel/strong-password.js';

const NAME = 'escrow';
const oneEscrowSchema = z.object({
  recipient: z.string(),
  /** Base64 of what both phrases open together. */
  sealed: z.string(),
  /** Logins and names, in the order of the phrases. */
  people: z.tuple([
    z.object({ login: z.string(), name: z.string() }),
    z.object({ login: z.string(), name: z.string() }),
  ]),
  since: z.string(),
});
/** The present one, and those before it: archives stay sealed to whichever was there when they began. */
const escrowSchema = oneEscrowSchema.extend({ earlier: z.array(oneEscrowSchema).default([]) });

export interface EscrowPerson {
  login: string;
  password: string;
  phrase: string;
}
type Two = readonly [EscrowPerson, EscrowPerson];

function escrowIn(decided: Decided) {
  const kept = decided.get(NAME);
  return kept === undefined ? null : escrowSchema.parse(kept);
}
const read = async (db: Database) => escrowIn(await readDecided(db));

export async function escrowView(db: Database) {
  const escrow = await read(db);
  return {
    people: escrow?.people.map((p) => p.name) ?? [],
    since: escrow?.since ?? null,
  };
}

/** Whoever of the two works here no longer, by name: what is sealed to it opens for nobody then. */
export async function escrowLeavers(db: Database, decided: Decided): Promise<string[]> {
  const escrow = escrowIn(decided);
  if (!escrow) return [];
  const logins = escrow.people.map(({ login }) => login);
  return db
    .select({ name: technicians.name })
    .from(technicians)
    .where(and(inArray(technicians.login, logins), isNotNull(technicians.leftAt)))
    .then((rows) => rows.map(({ name }) => name));
}

/** What archives are sealed to beside their password; null where the shop has no escrow. */
export async function escrowRecipient(db: Database): Promise<string | null> {
  return (await read(db))?.recipient ?? null;
}

/** Both are who they say, and not the same. Anything else goes on record. */
async function two(context: Context, people: Two, ticketId?: string) {
  const { db } = context;
  const [a, b] = people;
  try {
    const first = await verifyTechnician(db, a.login, a.password);
    const second = await verifyTechnician(db, b.login, b.password);
    if (first.id === second.id) throw new Failure('two-people');
    return [first, second] as const;
  } catch (error) {
    await noteOnly(context, {
      ticketId: ticketId ?? null,
      action: 'escrow-refused',
      what: `The escrow was asked for and refused: ${problemOf(error).what}`,
    });
    throw error;
  }
}

export async function setUpEscrow(context: Context, people: Two): Promise<void> {
  for (const { phrase } of people) await mustBeStrong(phrase);
  const [first, second] = await two(context, people);
  const before = await read(context.db);
  const { recipient, sealed } = await context.orders.ask(newEscrowOrder, {
    phrases: [people[0].phrase, people[1].phrase],
  });
  const value = {
    recipient,
    sealed,
    people: [first, second].map(({ login, name }) => ({ login, name })),
    since: context.clock.now().toISOString(),
    earlier: before ? [{ ...before, earlier: undefined }, ...before.earlier] : [],
  };
  await unitOfWork(context, async (unit) => {
    await unit.tx
      .insert(settings)
      .values({ name: NAME, value })
      .onDuplicateKeyUpdate({ set: { value } });
    unit.changed('escrow');
    unit.note({
      action: 'escrow-set-up',
      what: `Escrow set up: ${first.name} and ${second.name} together.`,
    });
  });
}

/** Two people give an archive another password with the shop's escrow. @throws Failure `wrong-password`, `two-people`. */
export async function openByEscrow(
  context: Context,
  archiveId: ArchiveId,
  wanted: {
    people: Two;
    newPassword: string;
    passwordHolder: string;
    reminder: string;
  },
): Promise<void> {
  const { db } = context;
  const [archive] = await db.select().from(archives).where(eq(archives.id, archiveId));
  const escrow = await read(db);
  if (!archive) throw new Failure('not-found');
  if (!archive.escrow || !escrow) {
    throw new Failure('not-found', {
      what: 'The customer did not agree to escrow for this archive: only its password opens it.',
      next: 'Ask its holder again; the reminder may help. Nobody else can open it.',
    });
  }
  // Asked again each time: what was agreed at intake can have been taken back since.
  if (!(await agreedOf(db, archive.ticketId)).escrow) {
    throw new Failure('not-agreed', {
      what: 'The customer does not agree to escrow any more.',
      safe: 'Nothing was opened.',
    });
  }
  await mustBeStrong(wanted.newPassword);
  const people = await two(context, wanted.people, archive.ticketId);
  const { earlier, ...present } = escrow;
  const candidates = [present, ...earlier].flatMap((one) => {
    const phrases = one.people.map(({ login }) => {
      const at = people.findIndex((p) => p.login === login);
      return at < 0 ? null : wanted.people[at === 0 ? 0 : 1].phrase;
    });
    const [first, second] = phrases;
    return first != null && second != null ? [{ sealed: one.sealed, first, second }] : [];
  });
  const note = (what: string) =>
    noteOnly(context, {
      technicianId: people[0].id,
      ticketId: archive.ticketId,
      action: 'escrow-opened',
      what: `${people[0].name} and ${people[1].name} ${what}`,
    });
  const copy = await copyToChange(db, archiveId);
  const { passwordHolder, reminder } = wanted;
  const openWith = ({ sealed, first, second }: (typeof candidates)[number]) =>
    context.orders.ask(openByEscrowOrder, {
      copyId: copy.id,
      sealed,
      phrases: [first, second],
      newPassword: wanted.newPassword,
      change: {
        archive: { passwordHolder, reminder },
        audit: {
          technicianId: people[0].id,
          ticketId: archive.ticketId,
          action: 'escrow-opened',
          what: `${people[0].name} and ${people[1].name} opened the archive by escrow and gave it another password.`,
        },
      },
    });
  try {
    if (candidates.length === 0) {
      throw new Failure('two-people', {
        what: `The escrow opens only with the phrases of ${escrow.people.map((p) => p.name).join(' and ')}.`,
      });
    }
    await firstThatOpens(candidates, openWith);
  } catch (error) {
    await note('tried to open the archive by escrow, and did not.');
    throw error;
  }
}

/** Tries one after the other; a wrong one does not tell which. @throws what the last one throws */
async function firstThatOpens<One>(
  all: readonly One[],
  open: (one: One) => Promise<unknown>,
): Promise<void> {
  for (const [n, one] of all.entries()) {
    try {
      await open(one);
      return;
    } catch (error) {
      if (problemOf(error).code !== 'wrong-password' || n === all.length - 1) throw error;
    }
  }
}

/**
 * The customer took their consent to escrow back: from now on nobody opens their archives by it, and its key is taken out
 * of every copy by {@link withdrawOwed}; out of one whose rack is away, or that is worked on, as soon as that is possible.
 */
export async function withdrawConsent(unit: Unit, deviceId: DeviceId): Promise<void> {
  const { tx } = unit;
  const sealed = await tx
    .select({ id: archives.id })
    .from(archives)
    .where(and(eq(archives.deviceId, deviceId), eq(archives.escrow, true)));
  const ids = sealed.map(({ id }) => id);
  if (ids.length === 0) return;
  await tx.update(archives).set({ escrow: false }).where(inArray(archives.id, ids));
  await tx.update(copies).set({ escrowOwed: true }).where(inArray(copies.archiveId, ids));
  for (const id of ids) unit.changed('archive', id);
}

/** Takes the escrow's key out of every copy that it is still owed of and that is here. */
export async function withdrawOwed(shop: Pick<Shop, 'db' | 'orders'>): Promise<void> {
  const owed = await shop.db
    .select({ copyId: copies.id, address: racks.address, rackId: racks.id })
    .from(copies)
    .innerJoin(racks, eq(racks.id, copies.rackId))
    .where(eq(copies.escrowOwed, true));
  for (const { copyId, address, rackId } of owed) {
    try {
      await mustBeRack(storeOf({ address }), rackId);
      await shop.orders.ask(withdrawEscrowOrder, { copyId });
    } catch (error) {
      // Away, or worked on: it stays owed.
      if (!(error instanceof Failure)) throw error;
    }
  }
}
