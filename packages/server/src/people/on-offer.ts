const OFFERED_MS = 10 * 60_000;
/** More than a shop’s people set up at once; the oldest gives way. */
const MOST = 200;

/** What was offered to somebody and not taken up yet: in memory, for ten minutes. */
export class OnOffer<Value> {
  readonly #held = new Map<string, { value: Value; until: number }>();

  put(key: string, value: Value): void {
    this.#held.delete(key);
    for (const [old, { until }] of this.#held) {
      if (until > Date.now() && this.#held.size < MOST) break;
      this.#held.delete(old);
    }
    this.#held.set(key, { value, until: Date.now() + OFFERED_MS });
  }

  get(key: string): Value | null {
    const found = this.#held.get(key);
    return found && found.until > Date.now() ? found.value : null;
  }

  /** It is there for nobody after this. */
  take(key: string): Value | null {
    const found = this.get(key);
    this.#held.delete(key);
    return found;
  }
}
