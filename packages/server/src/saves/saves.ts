import { createHash } from 'node:crypto';
import { createReadStream, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { open, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { newRecoveryKey, syncFolder } from '@bright-cellar/archive';
import type { SavesView } from '@bright-cellar/contract';
import {
  countOf,
  Failure,
  isCarried,
  isWithin,
  problemOf,
  SAVE_AGAIN_MS,
  SAVE_OVERDUE_MS,
  type RackKind,
} from '@bright-cellar/core';
import { asc, eq, isNull, sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Config } from '../config.js';
import { dumpOf } from '../database/dump.js';
import { racks, rackSaves, settings } from '../database/schema.js';
import { migrationsIn } from '../database/upgrade.js';
import { theProgram } from '../kernel/actor.js';
import { installationFolder, installationKey, installationName } from '../kernel/installation.js';
import { unitOfWork } from '../kernel/unit-of-work.js';
import { describeError, type Log } from '../log.js';
import { presentRacks } from '../racks/index.js';
import { readDecided, readSettings, type Decided } from '../settings/index.js';
import type { Context, Shop } from '../shop.js';
import { sealedSave } from './format.js';
import { putOnRack, saveNamed, saveName, type MadeSave } from './on-rack.js';

/** The row that says what saves are sealed to. */
const RECOVERY = 'recovery';
const recoverySchema = z.object({
  recipient: z.string().startsWith('age1'),
  since: z.iso.datetime(),
});

const LOOK_EVERY_MS = 60_000;
/** One that failed is tried again after so long. */
const REST_MS = 1_800_000;
const shopClock = { zone: Intl.DateTimeFormat().resolvedOptions().timeZone };

/**
 * Saves the catalogue, sealed, onto every rack that is here: in quiet hours once a night, at any hour where that is overdue, and
 * when somebody asks. One at a time.
 */
export class Saves {
  readonly #shop: Shop;
  readonly #log: Log;
  readonly #config: Pick<Config, 'databaseUrl' | 'careByItself'>;
  #running: Promise<void> | null = null;
  #triedAt = -Infinity;

  constructor(shop: Shop, log: Log, config: Pick<Config, 'databaseUrl' | 'careByItself'>) {
    this.#shop = shop;
    this.#log = log;
    this.#config = config;
  }

  follow(signal: AbortSignal): void {
    const look = () =>
      void this.look().catch((error: unknown) =>
        this.#log.warn({ error: describeError(error) }, 'the catalogue could not be saved'),
      );
    const timer = setInterval(look, LOOK_EVERY_MS);
    signal.addEventListener('abort', () => clearInterval(timer));
    look();
  }

  /** What was made before an upgrade goes onto the racks; a night’s save is made where it is time for it. */
  async look(): Promise<void> {
    if (!this.#config.careByItself || this.#running) return;
    const now = this.#shop.clock.now().getTime();
    if (now - this.#triedAt < REST_MS || (await this.#recipient()) === null) return;
    const left = namesWaiting().length > 0;
    const age = now - ((await this.#lastAt())?.getTime() ?? -Infinity);
    const { quietHours } = (await readSettings(this.#shop.db)).care;
    const isQuiet = isWithin(quietHours, new Date(now), shopClock);
    if (!left && age < (isQuiet ? SAVE_AGAIN_MS : SAVE_OVERDUE_MS)) return;
    await this.save();
  }

  /**
   * Saves the catalogue as it is now, and puts it onto every rack that is here.
   * @throws Failure `recovery-key-missing`; where it could be put on no rack, what was wrong with the first
   */
  save(): Promise<void> {
    this.#triedAt = this.#shop.clock.now().getTime();
    this.#running ??= this.#save().finally(() => (this.#running = null));
    return this.#running;
  }

  async view(): Promise<SavesView> {
    const { db } = this.#shop;
    const recovery = recoveryOf(await readDecided(db));
    const rows = await db
      .select({ id: racks.id, name: racks.name, present: racks.present, save: rackSaves })
      .from(racks)
      .leftJoin(rackSaves, eq(rackSaves.rackId, racks.id))
      .where(isNull(racks.retiredAt))
      .orderBy(asc(racks.name));
    return {
      key: recovery && { recipient: recovery.recipient, since: recovery.since },
      running: this.#running !== null,
      racks: rows.map(({ id, name, present, save }) => ({
        ...{ rackId: id, rackName: name, present },
        savedAt: save?.savedAt?.toISOString() ?? null,
        bytes: save?.bytes ?? null,
        problem: save?.problem ?? null,
      })),
    };
  }

  async #save(): Promise<void> {
    const recipient = await this.#recipient();
    if (recipient === null) throw new Failure('recovery-key-missing');
    const here = (await presentRacks(this.#shop.db)).filter(isOfShop);
    if (here.length === 0) throw new Failure('rack-not-here');
    const made = await makeSave(
      this.#config.databaseUrl,
      recipient,
      this.#shop.clock.now(),
      await migrationsIn(this.#shop.db),
    );
    let wrong: unknown = null;
    let isPut = false;
    for (const save of [...(await waitingSaves(made.path)), made]) {
      let lies = false;
      for (const rack of here) {
        const failed = await this.#putOn(rack, save);
        wrong ??= failed;
        lies ||= failed === null;
      }
      // What lies nowhere yet waits here for the next time.
      if (lies) rmSync(save.path);
      isPut ||= lies && save === made;
    }
    if (!isPut) {
      // The next one is of a later state.
      rmSync(made.path, { force: true });
      throw wrong instanceof Error ? wrong : new Failure('rack-not-here');
    }
    await unitOfWork({ ...this.#shop, actor: theProgram }, async (unit) => {
      unit.note({
        action: 'catalogue-saved',
        what: `The catalogue was saved onto ${countOf(here.length, 'rack')}${wrong === null ? '' : ', not all of them'}.`,
      });
      unit.changed('rack');
    });
  }

  /** @returns what went wrong; null where nothing did */
  async #putOn(rack: Awaited<ReturnType<typeof presentRacks>>[number], save: MadeSave) {
    const triedAt = this.#shop.clock.now();
    let row: Pick<typeof rackSaves.$inferInsert, 'savedAt' | 'name' | 'bytes' | 'problem'>;
    let failed: unknown = null;
    try {
      const name = await putOnRack(rack, installationName(), save);
      row = { savedAt: save.savedAt, name, bytes: save.bytes, problem: null };
    } catch (error) {
      failed = error;
      this.#log.warn({ rack: rack.id, error: describeError(error) }, 'a save could not be put');
      row = { problem: problemOf(error).what };
    }
    await this.#shop.db
      .insert(rackSaves)
      .values({ rackId: rack.id, triedAt, ...row })
      .onDuplicateKeyUpdate({ set: { triedAt, ...row } });
    return failed;
  }

  async #lastAt(): Promise<Date | null> {
    const [row] = await this.#shop.db
      .select({ at: sql<Date | null>`max(${rackSaves.savedAt})`.mapWith(rackSaves.savedAt) })
      .from(rackSaves);
    return row?.at ?? null;
  }

  async #recipient(): Promise<string | null> {
    return recoveryOf(await readDecided(this.#shop.db))?.recipient ?? null;
  }
}

/** A drive that leaves with a customer says so by their ticket’s number: nothing of others goes with it, sealed or not. */
const isOfShop = ({ kind, note }: { kind: RackKind; note: string }): boolean =>
  !(isCarried(kind) && /\b\d{8,12}\b/.test(note));

/** What saves are sealed to; null where nobody made a key yet. */
export const recoveryOf = (decided: Decided) =>
  recoverySchema.safeParse(decided.get(RECOVERY)).data ?? null;

/** Half of it stays here: from now on saves are sealed to it. Who has the other half opens them. */
export async function useRecoveryKey(context: Context, recipient: string): Promise<void> {
  await unitOfWork(context, async (unit) => {
    const value = { recipient, since: unit.now.toISOString() };
    await unit.tx
      .insert(settings)
      .values({ name: RECOVERY, value })
      .onDuplicateKeyUpdate({ set: { value } });
    unit.note({
      action: 'recovery-key-made',
      what: 'Saves of the catalogue are sealed to another recovery key from now on.',
    });
    unit.changed('settings');
  });
}

/** A key, of which this installation keeps nothing until somebody says that they have it. On record when it is used. */
export const offerRecoveryKey = newRecoveryKey;

/** Saves that lie here and are on no rack yet: one that was made before an upgrade. */
async function waitingSaves(but: string): Promise<MadeSave[]> {
  const found: MadeSave[] = [];
  for (const name of namesWaiting()) {
    const path = join(savesFolder(), name);
    const named = saveNamed(name);
    if (path === but || named === null) continue;
    const hash = createHash('sha256');
    let bytes = 0;
    for await (const piece of createReadStream(path) as AsyncIterable<Buffer>) {
      hash.update(piece);
      bytes += piece.length;
    }
    found.push({ path, ...named, bytes, sha256: hash.digest('hex') });
  }
  return found;
}

function namesWaiting(): string[] {
  try {
    return readdirSync(savesFolder()).filter((name) => name.endsWith('.age'));
  } catch {
    return [];
  }
}

const savesFolder = () => installationFolder('saves');

/** Makes a save, in a file of this installation. Cut off, it leaves a draft that the next one takes away. */
export async function makeSave(
  databaseUrl: string,
  recipient: string,
  savedAt: Date,
  migrations: number,
): Promise<MadeSave> {
  const folder = savesFolder();
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  for (const name of readdirSync(folder)) if (!name.endsWith('.age')) rmSync(join(folder, name));
  const path = join(folder, saveName(installationName(), { savedAt, migrations }));
  const hash = createHash('sha256');
  let bytes = 0;
  const header = {
    ...{ savedAt: savedAt.toISOString(), migrations },
    installationKey: installationKey().toString('base64'),
  };
  const file = await open(`${path}.part`, 'wx', 0o600);
  try {
    for await (const piece of sealedSave(header, dumpOf(databaseUrl), recipient)) {
      hash.update(piece);
      bytes += piece.length;
      await file.write(piece);
    }
    await file.sync();
  } finally {
    await file.close();
  }
  await rename(`${path}.part`, path);
  await syncFolder(folder);
  return { path, savedAt, migrations, bytes, sha256: hash.digest('hex') };
}
