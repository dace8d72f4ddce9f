import { setTimeout as sleep } from 'node:timers/promises';
import { OpenArchive, verifyOpen, withPassword } from '@bright-cellar/archive';
import type { Archive, Operation } from '@bright-cellar/contract';
import type { Radicale } from '@bright-cellar/rack-stand-ins';
import { eventually, OWNED, SIGN_IN } from '../product.js';
import { Misfortunes } from './misfortunes.js';
import { contentsOf, differenceOf, Shop, type Place } from './shop.js';
import { Work } from './work.js';

type Copy = Archive['copies'][number];

/** Nothing may run longer than this once what was wrong is right again. */
const END_AT_MOST_MS = 90_000;
/** What would go on for longer is asked to stop: that works, whatever happened. */
const PATIENT_MS = 6_000;
/** What is gone for on purpose is to end by itself, however busy the machine is. */
const IN_THE_END_MS = 30_000;

/** A step that is chosen, not drawn: names of an action and of a misfortune, which strikes as soon as something runs. */
export interface Direction {
  action: string;
  misfortune: string;
}

/** Everything a shop does, with everything that can go wrong in the middle of it, at random out of a seed. */
export class FaultWalk {
  readonly #shop: Shop;
  readonly #work: Work;
  readonly #misfortunes: Misfortunes;
  /** The backups and the bytes of each copy when it was last found whole. */
  readonly #seenWhole = new Map<string, string>();
  /** What was done, and what went wrong, step by step. */
  readonly log: string[] = [];
  /** How often a device was erased, and got everything back from the copy that the erase rested on. */
  broughtBack = 0;

  constructor(place: Place, server: Radicale, clockFile: string) {
    this.#shop = new Shop(place);
    this.#work = new Work(this.#shop, server);
    this.#misfortunes = new Misfortunes(this.#shop, clockFile);
  }

  get answers(): Readonly<Record<string, number>> {
    return this.#shop.answers;
  }

  begin(): Promise<void> {
    return this.#shop.addFar();
  }

  /** One thing is done, something goes wrong in the middle of it, it is put right, and everything must be as it is said to be. */
  async step(directed?: Direction): Promise<void> {
    const { random } = this.#shop;
    const { action, misfortune } = directed ?? {
      action: this.#shop.pick(Object.keys(this.#work.actions)) ?? '',
      misfortune: this.#shop.pick(Object.keys(this.#misfortunes.kinds)) ?? '',
    };
    const act = Object.entries(this.#work.actions).find(([name]) => name === action)?.[1];
    const strike = this.#misfortunes.kinds[misfortune];
    if (!act || !strike) throw new Error(`nothing is called ${action}, ${misfortune}`);
    this.log.push(`${action}, ${misfortune}`);
    await this.#shop.readyOwned(`step ${this.log.length}`);
    await this.#work.preparations[action]?.();
    // Whatever is asked while something is gone may be refused.
    const started = act().catch(() => undefined);
    // Mostly in the middle of what runs, sometimes before it does.
    if (directed ?? random(4) > 0) await this.#untilRunning();
    if (!directed) await sleep(random(600));
    await this.#unlessGone(strike);
    await sleep(random(500));
    this.#misfortunes.mend();
    await started;
    await this.#settle(directed ? IN_THE_END_MS : PATIENT_MS);
    this.#misfortunes.heal();
    await this.#provenIsWhole();
    await this.#bringBack();
  }

  /** Waits until something runs, or would by now if it ever did. */
  async #untilRunning(): Promise<void> {
    const until = Date.now() + 2_500;
    while (Date.now() < until) {
      const { body } = await this.#shop.api.get<Operation[]>('/api/operations');
      if (body.length > 0) return;
      await sleep(30);
    }
  }

  /** What is gone already cannot be struck any more. */
  async #unlessGone(strike: () => unknown): Promise<void> {
    try {
      await strike();
    } catch {
      // Nothing more goes wrong in this step.
    }
  }

  /** Everything answers again, and nothing runs any more. */
  async #settle(patientMs: number): Promise<void> {
    const { api } = this.#shop;
    const began = Date.now();
    await eventually(
      `the end of everything after ${this.log.at(-1)}`,
      async () => {
        const { status, body } = await api
          .get<Operation[]>('/api/operations')
          .catch(() => ({ status: 0, body: [] as Operation[] }));
        // A clock that jumped far ends sessions.
        if (status === 401) await api.signIn(SIGN_IN);
        if (status !== 200) return false;
        if (body.length === 0) return true;
        if (Date.now() - began > patientMs) {
          for (const { id } of body)
            await api.post(`/api/operations/${id}/stop`).catch(() => undefined);
        }
        return false;
      },
      END_AT_MOST_MS,
    );
  }

  /** What is said to be proven of a copy, or to be a whole copy, is whole on the medium. */
  async #provenIsWhole(): Promise<void> {
    for (const { id } of await this.#shop.archives()) {
      const archive = await this.#shop.archive(id);
      for (const copy of archive.copies) {
        const proven = archive.backups.filter(({ proofs }) => {
          const newest = proofs.find(({ copyId }) => copyId === copy.id);
          return newest?.outcome === 'whole' && newest.level === 'full' && newest.current;
        });
        const isCopied = copy.state === 'whole' && copy.checkedLevel === 'bytes';
        if (proven.length === 0 && !isCopied) continue;
        // Of the very bytes that were seen whole, nothing else can come out: deriving a key again takes most of a step.
        const ids = proven.map((backup) => backup.id);
        const seen = [...ids, contentsOf(this.#shop.folderOf(copy))].join();
        if (this.#seenWhole.get(copy.id) === seen) continue;
        await this.#mustBeWhole(archive, copy, ids);
        this.#seenWhole.set(copy.id, seen);
      }
    }
  }

  async #mustBeWhole(
    { id: archiveId }: Archive,
    copy: Copy,
    ids: readonly string[],
  ): Promise<void> {
    const folder = this.#shop.folderOf(copy);
    const why: string[] = [];
    for (const password of this.#shop.passwords(archiveId)) {
      const open = await OpenArchive.open(this.#shop.filesOf(copy), withPassword(password), {
        threads: 0,
      }).catch((error: unknown) => void why.push(String(error)));
      if (!open) continue;
      try {
        const { contents, whole } = await verifyOpen(open, { level: 'full', threads: 0 });
        if (!whole) throw new Error(`said to be whole, and is not: ${folder}`);
        for (const id of ids) {
          if (!contents?.backups.find(({ backup }) => backup === id)?.whole)
            throw new Error(`said to be proven, and is not: ${id}`);
        }
        return;
      } finally {
        await open.close();
      }
    }
    throw new Error(`no password opens ${folder}: ${why.join(', ')}`);
  }

  /** A device that was erased, or half erased, gets everything back from the copy that its erase rested on. */
  async #bringBack(): Promise<void> {
    const { erased } = this.#work;
    this.#work.erased = null;
    if (!erased || this.#shop.ownedContents() === erased.contents) return;
    const archive = await this.#shop.archive(erased.archiveId);
    const rested = archive.copies.find((copy) =>
      archive.backups.some(
        ({ id, proofs }) =>
          id === erased.backupId &&
          proofs.some(
            ({ copyId, level, current }) => copyId === copy.id && level === 'full' && current,
          ),
      ),
    );
    if (!rested) throw new Error('nothing is said to be proven of what the erase rested on');
    await this.#mustBeWhole(archive, rested, [erased.backupId]);
    await this.#shop.readyEmpty(OWNED);
    const started = await this.#work.restore(erased.archiveId, erased.backupId, OWNED);
    const ended = started && (await this.#shop.api.ended(started.id));
    if (ended?.state !== 'done') throw new Error(`no way back: ${JSON.stringify(ended?.problem)}`);
    const differs = differenceOf(erased.contents, this.#shop.ownedContents());
    if (differs !== '') throw new Error(`what came back is not what was there:\n${differs}`);
    this.broughtBack += 1;
  }
}
