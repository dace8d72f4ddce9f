import { LinkError } from './protocol.js';

/**
 * How long an exchange with the adapter may take: until somebody says so, or a silence is too long. It is watched here and
 * not left to `fetch`, which holds a signal weakly: once its request is collected, a body that stands still never ends.
 */
export class Limit {
  readonly #over = new AbortController();
  readonly #asked: AbortSignal | undefined;
  #silence: NodeJS.Timeout | undefined;

  constructor(asked: AbortSignal | undefined) {
    this.#asked = asked;
    if (asked?.aborted) this.#pass();
    else asked?.addEventListener('abort', this.#pass);
  }

  readonly #pass = (): void => this.#over.abort(this.#asked?.reason);

  get signal(): AbortSignal {
    return this.#over.signal;
  }

  /** From now on it may stand still for so many milliseconds. */
  silentFor(ms: number): void {
    this.sounds();
    this.#silence = setTimeout(() => this.#over.abort(), ms);
  }

  /** It does not stand still, or nobody waits for it. */
  sounds(): void {
    clearTimeout(this.#silence);
  }

  /** Settles as the work does. @throws LinkError `no-answer` as soon as the limit is reached */
  async during<T>(work: Promise<T>): Promise<T> {
    const { signal } = this;
    return new Promise<T>((resolve, reject) => {
      const stop = () => reject(new LinkError('no-answer', { cause: signal.reason }));
      if (signal.aborted) stop();
      else signal.addEventListener('abort', stop);
      work.then(resolve, reject).finally(() => signal.removeEventListener('abort', stop));
    });
  }

  /** Nothing is waited for any more. */
  end(): void {
    this.sounds();
    this.#asked?.removeEventListener('abort', this.#pass);
  }
}
