import { Failure } from '@bright-cellar/core';
import type { Lease, LeaseKind } from './store.js';

/** What an archive is taken with for this process, and given back. */
export interface Hold {
  release(): Promise<void>;
}

interface Held {
  hold: Promise<Hold>;
  kinds: LeaseKind[];
}

/**
 * Who in this process has a lease of which archive. To everybody else they are one that has it: whoever comes first takes
 * the archive for all of them, whoever leaves last gives it back.
 */
export class Leases {
  readonly #held = new Map<string, Held>();
  /** Archives that the last one is just leaving. */
  readonly #leaving = new Map<string, Promise<void>>();

  /**
   * @param take the archive for this process; for the first only
   * @param join what else must be done where others have a lease already
   * @throws Failure `archive-in-use` at once; what `take` and `join` throw
   */
  async lease(
    archive: string,
    kind: LeaseKind,
    take: () => Promise<Hold>,
    join: () => Promise<unknown> = async () => undefined,
  ): Promise<Lease> {
    const others = this.#held.get(archive);
    if (others?.kinds.some((other) => !beside(other, kind))) throw inUse();
    const held = others ?? { hold: this.#takenAgain(archive, take), kinds: [] };
    this.#held.set(archive, held);
    const place = { kind };
    held.kinds.push(kind);
    const leave = () => this.#leave(archive, held, place.kind);
    try {
      await held.hold;
      if (others) await join();
    } catch (error) {
      await leave().catch(() => undefined);
      throw error;
    }
    let released = false;
    return {
      get kind() {
        return place.kind;
      },
      upgrade() {
        if (held.kinds.length > 1) throw inUse();
        place.kind = 'exclusive';
        held.kinds = ['exclusive'];
      },
      async release() {
        if (released) return;
        released = true;
        await leave();
      },
    };
  }

  async #takenAgain(archive: string, take: () => Promise<Hold>): Promise<Hold> {
    await this.#leaving.get(archive)?.catch(() => undefined);
    return take();
  }

  async #leave(archive: string, held: Held, kind: LeaseKind): Promise<void> {
    held.kinds.splice(held.kinds.indexOf(kind), 1);
    if (held.kinds.length > 0) return;
    this.#held.delete(archive);
    const left = held.hold.then((hold) => hold.release());
    this.#leaving.set(archive, left);
    await left.finally(() => this.#leaving.delete(archive));
  }
}

export function inUse(cause?: unknown): Failure {
  return new Failure('archive-in-use', {}, { cause });
}

const beside = (one: LeaseKind, other: LeaseKind) =>
  one === 'shared' ? other !== 'exclusive' : one === 'update' && other === 'shared';
