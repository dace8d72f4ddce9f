import { Failure, passwordProblem } from '@bright-cellar/core';
import { eq } from 'drizzle-orm';
import { z } from 'zod';
import type { Database } from '../database/connect.js';
import { archives, settings } from '../database/schema.js';
import { presentCopy } from './archives.js';
import { noteAudit } from './audit.js';
import type { Shop } from './shop.js';
import { verifyTechnician } from './technicians.js';

const NAME = 'escrow';
const escrowSchema = z.object({
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

export interface EscrowPerson {
  login: string;
  password: string;
  phrase: string;
}
type Two = readonly [EscrowPerson, EscrowPerson];

async function read(db: Database) {
  const [row] = await db.select().from(settings).where(eq(settings.name, NAME));
  return row ? escrowSchema.parse(row.value) : null;
}

export async function escrowView(db: Database) {
  const escrow = await read(db);
  return {
    people: escrow?.people.map((p) => p.name) ?? [],
    since: escrow?.since ?? null,
  };
}

/** What archives are sealed to beside their password; null where the shop has no escrow. */
export async function escrowRecipient(db: Database): Promise<string | null> {
  return (await read(db))?.recipient ?? null;
}

/** Both are who they say, and not the same. */
async function two(db: Database, people: Two) {
  const [a, b] = people;
  const first = await verifyTechnician(db, a.login, a.password);
  const second = await verifyTechnician(db, b.login, b.password);
  if (first.id === second.id) throw new Failure('two-people');
  return [first, second] as const;
}

export async function setUpEscrow(shop: Shop, people: Two, technicianId: string): Promise<void> {
  for (const { phrase } of people) {
    const weak = passwordProblem(phrase);
    if (weak) throw new Failure(weak.code, weak);
  }
  const [first, second] = await two(shop.db, people);
  const { recipient, sealed } = await shop.orders.newEscrow([people[0].phrase, people[1].phrase]);
  const value = {
    recipient,
    sealed,
    people: [first, second].map(({ login, name }) => ({ login, name })),
    since: new Date().toISOString(),
  };
  await shop.db.transaction(async (tx) => {
    await tx
      .insert(settings)
      .values({ name: NAME, value })
      .onDuplicateKeyUpdate({ set: { value } });
    await noteAudit(tx, {
      technicianId,
      action: 'escrow-set-up',
      what: `Escrow set up: ${first.name} and ${second.name} together.`,
    });
  });
}

/** Two people give an archive another password with the shop's escrow. @throws Failure `wrong-password`, `two-people`. */
export async function openByEscrow(
  shop: Shop,
  archiveId: string,
  wanted: {
    people: Two;
    newPassword: string;
    passwordHolder: string;
    reminder: string;
  },
): Promise<void> {
  const { db } = shop;
  const [archive] = await db.select().from(archives).where(eq(archives.id, archiveId));
  const escrow = await read(db);
  if (!archive) throw new Failure('not-found');
  if (!archive.escrow || !escrow) {
    throw new Failure('not-found', {
      what: 'The customer did not agree to escrow for this archive: only its password opens it.',
      next: 'Ask its holder again; the reminder may help. Nobody else can open it.',
    });
  }
  const weak = passwordProblem(wanted.newPassword);
  if (weak) throw new Failure(weak.code, weak);
  const people = await two(db, wanted.people);
  const phrases = escrow.people.map(({ login }) => {
    const at = people.findIndex((p) => p.login === login);
    if (at < 0) {
      throw new Failure('two-people', {
        what: `The escrow opens only with the phrases of ${escrow.people.map((p) => p.name).join(' and ')}.`,
      });
    }
    return wanted.people[at === 0 ? 0 : 1].phrase;
  });
  const note = (what: string) =>
    noteAudit(db, {
      technicianId: people[0].id,
      ticketId: archive.ticketId,
      action: 'escrow-opened',
      what: `${people[0].name} and ${people[1].name} ${what}`,
    });
  const copy = await presentCopy(db, archiveId);
  const { passwordHolder, reminder } = wanted;
  try {
    await shop.orders.openByEscrow({
      copyId: copy.id,
      sealed: escrow.sealed,
      phrases: [phrases[0] ?? '', phrases[1] ?? ''],
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
  } catch (error) {
    await note('tried to open the archive by escrow, and did not.');
    throw error;
  }
}
