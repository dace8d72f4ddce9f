import type { LinkDeviceId } from '@bright-cellar/core';
import type { DeviceLink } from './client.js';
import { SMALL_BYTES, SMALL_ENTRIES, type Entry } from './protocol.js';

/**
 * The same ones in the same order, each with its contents where these are small: they are asked for many at a time.
 * @param read what is wanted of one; null where nothing is
 * @returns `contents` null of what is long, and of what did not come: read by itself, it says why
 */
export async function* readAhead<One>(
  link: Pick<DeviceLink, 'readSmall'>,
  device: LinkDeviceId,
  all: AsyncIterable<One> | Iterable<One>,
  read: (one: One) => Promise<Entry | null> | Entry | null,
  signal?: AbortSignal,
): AsyncGenerator<{ one: One; contents: Buffer | null }> {
  let held: { one: One; small: Entry | null }[] = [];
  async function* give() {
    const given = held;
    held = [];
    const asked = given.flatMap(({ small }) => small ?? []);
    let coming: AsyncGenerator<Buffer | null> | null =
      asked.length > 1 ? link.readSmall(device, asked, signal) : null;
    try {
      for (const { one, small } of given) {
        let contents: Buffer | null = null;
        try {
          const next = small && coming ? await coming.next() : null;
          if (next?.done === false) contents = next.value;
        } catch {
          signal?.throwIfAborted();
          coming = null;
        }
        yield { one, contents };
      }
    } finally {
      await coming?.return(null);
    }
  }
  for await (const one of all) {
    const entry = await read(one);
    held.push({ one, small: entry && entry.bytes <= SMALL_BYTES ? entry : null });
    if (held.length === SMALL_ENTRIES) yield* give();
  }
  yield* give();
}
