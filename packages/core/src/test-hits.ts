import { expect } from 'vitest';

/**
 * Counts how often a property met each of the cases that it is about: one that never meets them holds of nothing.
 *
 * ```ts
 * const met = new Hits('allowed', 'refused');
 * fc.assert(fc.property(…, (x) => { met.hit(isAllowed(x) ? 'allowed' : 'refused'); … }));
 * met.expectEach(20);
 * ```
 */
export class Hits<Name extends string> {
  readonly #counts: Map<Name, number>;

  constructor(...names: Name[]) {
    this.#counts = new Map(names.map((name) => [name, 0]));
  }

  hit(name: Name): void {
    this.#counts.set(name, (this.#counts.get(name) ?? 0) + 1);
  }

  /** Each was met as often as that. */
  expectEach(least: number): void {
    for (const [name, count] of this.#counts) expect(count, name).toBeGreaterThanOrEqual(least);
  }
}
