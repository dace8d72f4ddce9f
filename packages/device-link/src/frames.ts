import { LinkError, smallHeadSchema, type Entry } from './protocol.js';

/** No line before contents is longer. */
const HEAD_MAX = 256;
const LINE_FEED = 10;

/**
 * Contents of small entries, as an adapter sends them one after the other, each after a line that says how many bytes follow.
 * @returns in their order; null of what it did not give out, or not of the revision and with the length that it had listed
 * @throws LinkError `not-valid` of what is nothing of the kind, `no-answer` where it breaks off
 */
export async function* framesIn(
  pieces: AsyncIterable<Uint8Array>,
  entries: readonly Pick<Entry, 'bytes' | 'revision'>[],
): AsyncGenerator<Buffer | null> {
  const source = new Source(pieces);
  try {
    for (const { bytes, revision } of entries) {
      const head = smallHeadSchema.safeParse(jsonOrNull(await source.line()));
      if (!head.success) throw new LinkError('not-valid');
      if ('error' in head.data) {
        yield null;
        continue;
      }
      const contents = await source.take(head.data.bytes);
      // An adapter that does not say that it is what was asked for is not believed.
      yield contents.length === bytes && head.data.revision === revision ? contents : null;
    }
  } finally {
    await source.leave();
  }
}

class Source {
  readonly #pieces: AsyncIterator<Uint8Array>;
  #held: Buffer = Buffer.alloc(0);

  constructor(pieces: AsyncIterable<Uint8Array>) {
    this.#pieces = pieces[Symbol.asyncIterator]();
  }

  async line(): Promise<string> {
    for (;;) {
      const end = this.#held.indexOf(LINE_FEED);
      if (end >= 0) return (await this.take(end + 1)).toString('utf8', 0, end);
      if (this.#held.length > HEAD_MAX) throw new LinkError('not-valid');
      await this.#more();
    }
  }

  async take(bytes: number): Promise<Buffer> {
    while (this.#held.length < bytes) await this.#more();
    const taken = this.#held.subarray(0, bytes);
    this.#held = this.#held.subarray(bytes);
    return taken;
  }

  async leave(): Promise<void> {
    await this.#pieces.return?.();
  }

  async #more(): Promise<void> {
    const next = await this.#pieces.next();
    if (next.done) throw new LinkError('no-answer');
    this.#held = Buffer.concat([this.#held, next.value]);
  }
}

export function jsonOrNull(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
