import { setTimeout as sleep } from 'node:timers/promises';
import { ExponentialBackoff, noJitterGenerator } from 'cockatiel';
import {
  deviceFactsSchema,
  type DataClass,
  type DeviceFacts,
  type ErasePermit,
  type LinkDeviceId,
  type MountedFolder,
} from '@bright-cellar/core';
import type { z } from 'zod';
import { framesIn, jsonOrNull } from './frames.js';
import { Limit } from './limit.js';
import {
  backupStateSchema,
  ENTRY_HEADER,
  entryPageSchema,
  groupsSchema,
  HEARTBEAT_MS,
  LINK_PREFIX,
  LinkError,
  isOdd,
  judgeDevice,
  linkErrorSchema,
  receivedSchema,
  restoreStateSchema,
  revisionSchema,
  sentEventSchema,
  type Arrangement,
  type Entry,
  type Group,
  type LinkEvent,
  type NewEntry,
  type RestoreOffer,
} from './protocol.js';

export interface LinkOptions {
  /** Where the adapter listens, as `http://127.0.0.1:4681`. */
  address: string;
  token: string;
  /** How long a request may stand still, in ms. */
  idleMs?: number;
  /** How long it waits before it takes up a connection that broke, in ms; twice as long each time. */
  pauseMs?: number;
}

const RETRIES = 3;
/** No answer and no event is longer. */
const ANSWER_MAX_BYTES = 32 * 2 ** 20;
/** Of one class: five million entries. */
const PAGES_MAX = 5_000;

async function rethrow(error: unknown): Promise<never> {
  throw error;
}

/** Names of customers' files never stand in a URL. */
const entryHeader = (entry: NewEntry | Pick<NewEntry, 'path'>) => ({
  [ENTRY_HEADER]: Buffer.from(JSON.stringify(entry)).toString('base64url'),
});

/** The one way in which the rest of the product speaks to devices. */
export class DeviceLink {
  #base: string;
  #token: string;
  readonly #idleMs: number;
  readonly #pauses: ExponentialBackoff<unknown>;

  constructor({ address, token, idleMs = 30_000, pauseMs = 250 }: LinkOptions) {
    this.#base = address.replace(/\/$/, '') + LINK_PREFIX;
    this.#token = token;
    this.#idleMs = idleMs;
    this.#pauses = new ExponentialBackoff({ initialDelay: pauseMs, generator: noJitterGenerator });
  }

  /** From now on it asks another adapter. What is being asked goes on with the one before. */
  direct({ address, token }: Pick<LinkOptions, 'address' | 'token'>): void {
    this.#base = address.replace(/\/$/, '') + LINK_PREFIX;
    this.#token = token;
  }

  /**
   * Everything that happens on the bench, from a full picture on. Ends with a {@link LinkError} when
   * the adapter goes away or stays silent.
   */
  async *events(signal: AbortSignal): AsyncGenerator<LinkEvent> {
    let rest = '';
    // A piece may end in the middle of a letter.
    const decoder = new TextDecoder();
    for await (const piece of this.#stream('/events', {}, signal, HEARTBEAT_MS * 3)) {
      const said = decoder.decode(piece, { stream: true });
      // Put together only when there is a line: otherwise a long one would be copied for each of its pieces.
      rest += said;
      const lines = said.includes('\n') ? rest.split('\n') : [];
      if (lines.length > 0) rest = lines.pop() ?? '';
      // Whatever speaks so long a word is no adapter.
      if (rest.length > ANSWER_MAX_BYTES) throw new LinkError('no-answer');
      for (const line of lines) {
        const sent = sentEventSchema.safeParse(line ? jsonOrNull(line) : null);
        if (sent.success) yield* eventsOf(sent.data);
      }
    }
    throw new LinkError('no-answer');
  }

  async facts(device: LinkDeviceId): Promise<DeviceFacts> {
    return this.#call('GET', `/devices/${device}`, deviceFactsSchema);
  }

  /**
   * Everything of one class, page by page, so that a long listing needs neither memory nor an idle connection.
   * @param onTrouble told of a page that was refused: it is asked for again when this returns
   */
  async *entries(
    device: LinkDeviceId,
    dataClass: DataClass,
    signal?: AbortSignal,
    onTrouble: (error: unknown) => Promise<void> = rethrow,
  ): AsyncGenerator<Entry> {
    let after: string | null = '';
    for (let pages = 0; after !== null; pages++) {
      // A listing without an end is no listing.
      if (pages >= PAGES_MAX) throw new LinkError('not-valid');
      const query = new URLSearchParams({ class: dataClass, after });
      let page: z.infer<typeof entryPageSchema>;
      try {
        page = await this.#call(
          'GET',
          `/devices/${device}/entries?${query.toString()}`,
          entryPageSchema,
          signal ? { signal } : {},
        );
      } catch (error) {
        await onTrouble(error);
        continue;
      }
      if (page.entries.length === 0 && page.next !== null) throw new LinkError('not-valid');
      yield* page.entries;
      after = page.next;
    }
  }

  /**
   * An entry's bytes. A connection that breaks while the device stays is taken up again where it broke;
   * contents that changed meanwhile end it with `changed`.
   * @param from bytes to pass over, which somebody has already.
   * @throws LinkError
   */
  async *read(
    device: LinkDeviceId,
    entry: Entry,
    signal?: AbortSignal,
    from = 0,
  ): AsyncGenerator<Uint8Array> {
    let offset = from;
    let broken = false;
    let pause = this.#pauses.next();
    for (let tries = 0; ; tries++) {
      try {
        // A device that is gone says so at once, and is not tried again.
        if (broken) await this.facts(device);
        const headers: Record<string, string> = { 'if-match': `"${entry.revision}"` };
        if (offset > 0) headers.range = `bytes=${offset}-`;
        const path = `/devices/${device}/entries/${entry.id}/content`;
        for await (const piece of this.#stream(
          path,
          { headers },
          signal,
          this.#idleMs,
          entry.revision,
        )) {
          // More than it said: none of it is believed.
          if (offset + piece.length > entry.bytes) throw new LinkError('changed');
          offset += piece.length;
          tries = 0;
          pause = this.#pauses.next();
          yield piece;
        }
        if (offset === entry.bytes) return;
        throw new LinkError('no-answer');
      } catch (error) {
        signal?.throwIfAborted();
        if (!(error instanceof LinkError) || error.code !== 'no-answer' || tries >= RETRIES)
          throw error;
        broken = true;
        await sleep(pause.duration);
        pause = pause.next(undefined);
      }
    }
  }

  /**
   * Contents of entries of at most `SMALL_BYTES`, at most `SMALL_ENTRIES` of them, with one request: to ask for each by itself
   * takes longer than to read it.
   * @returns in their order; null of what must be read by itself, which says then why
   * @throws LinkError
   */
  async *readSmall(
    device: LinkDeviceId,
    entries: readonly Entry[],
    signal?: AbortSignal,
  ): AsyncGenerator<Buffer | null> {
    const asked = entries.map(({ id, revision }) => ({ id, revision }));
    const init = {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ entries: asked }),
    };
    const path = `/devices/${device}/contents`;
    yield* framesIn(this.#stream(path, init, signal, this.#idleMs), entries);
  }

  /**
   * What stands for all that the device holds now, found out anew by the device. What was read before is what it holds
   * if this is the same before and after.
   */
  async revision(device: LinkDeviceId, signal?: AbortSignal): Promise<string> {
    const path = `/devices/${device}/revision`;
    return (await this.#call('GET', path, revisionSchema, signal ? { signal } : {}))
      .contentRevision;
  }

  /** Applications, threads, databases and albums, each with what it holds. */
  async groups(device: LinkDeviceId, signal?: AbortSignal): Promise<Group[]> {
    const path = `/devices/${device}/groups`;
    return (await this.#call('GET', path, groupsSchema, signal ? { signal } : {})).groups;
  }

  /**
   * Tells the device that a backup is being taken, so that its screen can say so. End it whatever happens.
   * @param encrypted some families leave sensitive classes out of their listing when it is not
   * @returns `asking` while the owner has not confirmed on the device: ask again once they have
   */
  async beginBackup(device: LinkDeviceId, encrypted = true): Promise<'running' | 'asking'> {
    const body = JSON.stringify({ encrypted });
    return (await this.#call('POST', `/devices/${device}/backup`, backupStateSchema, { body }))
      .state;
  }

  /** Has the device install the update that its OS offers. It leaves the bench and returns. */
  async update(device: LinkDeviceId, serial: string): Promise<void> {
    const body = JSON.stringify({ serial });
    await this.#call('POST', `/devices/${device}/update`, null, { body });
  }

  async endBackup(device: LinkDeviceId): Promise<void> {
    await this.#call('DELETE', `/devices/${device}/backup`, null);
  }

  /** Says what the shop decided of its bench, to an adapter that takes mounted storage. */
  async arrange(arrangement: Arrangement): Promise<void> {
    await this.#call('PUT', '/bench', null, { body: JSON.stringify(arrangement) });
  }

  /**
   * Puts storage that is mounted on the adapter's computer on the bench as a device.
   * @throws LinkError `not-valid` where it is no folder in a place for them, `busy` where it is there already or no berth is
   * free, `not-capable`
   */
  async connectStorage(storage: MountedFolder): Promise<DeviceFacts> {
    const body = JSON.stringify(storage);
    return this.#call('POST', '/storage', deviceFactsSchema, { body });
  }

  /** Takes such storage off the bench. What lies there stays. @throws LinkError `not-capable` of any other device, `busy` */
  async letStorageGo(device: LinkDeviceId): Promise<void> {
    await this.#call('DELETE', `/storage/${device}`, null);
  }

  /** Offers a backup to an empty device. The device itself refuses when it is not ready. */
  async beginRestore(device: LinkDeviceId, offer: RestoreOffer): Promise<string> {
    const body = JSON.stringify(offer);
    return (await this.#call('POST', `/devices/${device}/restores`, restoreStateSchema, { body }))
      .id;
  }

  /**
   * Writes one entry.
   * @returns how many of its bytes the device now has safely
   * @throws LinkError; whatever `contents` throws: the device then has nothing of the entry
   */
  async write(
    device: LinkDeviceId,
    restore: string,
    entry: NewEntry,
    contents: AsyncIterable<Uint8Array>,
    signal?: AbortSignal,
  ): Promise<number> {
    return this.#put(`/devices/${device}/restores/${restore}/entry`, entry, contents, signal);
  }

  /** Takes back an entry that a restore sent: the source has it no more. */
  async drop(device: LinkDeviceId, restore: string, path: string): Promise<void> {
    await this.#call('DELETE', `/devices/${device}/restores/${restore}/entry`, null, {
      headers: entryHeader({ path }),
    });
  }

  /**
   * Lets a device take single entries beside what is on it. What it took by the end, however that came, stays.
   * @throws LinkError `not-capable`, `wrong-serial`
   */
  async beginAddition(device: LinkDeviceId, serial: string): Promise<string> {
    const body = JSON.stringify({ serial });
    return (await this.#call('POST', `/devices/${device}/additions`, restoreStateSchema, { body }))
      .id;
  }

  /**
   * Puts one entry in its place, all of it or nothing.
   * @param replaces the revision of what it takes the place of; without one nothing may be there
   * @returns how many of its bytes the device now has safely
   * @throws LinkError `exists` where something lies there; `changed` where what does is of another revision; whatever `contents` throws: the device then has nothing of the entry
   */
  async add(
    device: LinkDeviceId,
    addition: string,
    entry: NewEntry,
    contents: AsyncIterable<Uint8Array>,
    signal?: AbortSignal,
    replaces?: string,
  ): Promise<number> {
    const path = `/devices/${device}/additions/${addition}/entry`;
    return this.#put(path, entry, contents, signal, replaces);
  }

  /** Takes away what is of that revision still. @throws LinkError `changed`, `no-such-entry` */
  async takeAway(
    device: LinkDeviceId,
    addition: string,
    { path, revision }: Pick<Entry, 'path' | 'revision'>,
  ): Promise<void> {
    await this.#call('DELETE', `/devices/${device}/additions/${addition}/entry`, null, {
      headers: { ...entryHeader({ path }), 'if-match': `"${revision}"` },
    });
  }

  /** Ends whichever addition runs. */
  async endAddition(device: LinkDeviceId): Promise<void> {
    await this.#call('DELETE', `/devices/${device}/additions`, null);
  }

  async #put(
    path: string,
    entry: NewEntry,
    contents: AsyncIterable<Uint8Array>,
    signal: AbortSignal | undefined,
    replaces?: string,
  ): Promise<number> {
    const source: { error?: unknown } = {};
    const body = ReadableStream.from(
      watched(contents, (error) => {
        source.error = error;
      }),
    );
    try {
      const { received } = await this.#call('PUT', path, receivedSchema, {
        headers: {
          ...entryHeader(entry),
          'content-type': 'application/octet-stream',
          ...(replaces === undefined ? {} : { 'if-match': `"${replaces}"` }),
        },
        body,
        ...(signal ? { signal } : {}),
      });
      return received;
    } catch (error) {
      // What could not be read is not the cable's fault.
      throw 'error' in source ? source.error : error;
    }
  }

  /** Ends the first pass: everything is over. The device installs, leaves the bench and returns. */
  async commitRestore(
    device: LinkDeviceId,
    restore: string,
    sent: { items: number; bytes: number },
  ): Promise<void> {
    const body = JSON.stringify(sent);
    await this.#call('POST', `/devices/${device}/restores/${restore}/commit`, null, { body });
  }

  async restart(device: LinkDeviceId): Promise<void> {
    await this.#call('POST', `/devices/${device}/restart`, null);
  }

  /** Erases everything on the device that the permit names. */
  async erase(device: LinkDeviceId, { serial }: ErasePermit): Promise<void> {
    await this.#call('POST', `/devices/${device}/erase`, null, {
      body: JSON.stringify({ serial }),
    });
  }

  async #call<Schema extends z.ZodType | null>(
    method: string,
    path: string,
    schema: Schema,
    more: {
      body?: string | ReadableStream;
      headers?: Record<string, string>;
      signal?: AbortSignal;
    } = {},
  ): Promise<Schema extends z.ZodType ? z.infer<Schema> : undefined> {
    const limit = new Limit(more.signal);
    // A streamed body takes as long as it takes; the device's own side watches it for standing still.
    if (typeof more.body !== 'object') limit.silentFor(this.#idleMs);
    const answered = async () => {
      const response = await this.#fetch(path, {
        method,
        signal: limit.signal,
        headers: { 'content-type': 'application/json', ...more.headers },
        ...(more.body === undefined ? {} : { body: more.body, duplex: 'half' }),
      });
      return schema
        ? schema.parse(await boundedJson(response))
        : response.text().then(() => undefined);
    };
    try {
      const answer: unknown = await limit.during(answered());
      return answer as Schema extends z.ZodType ? z.infer<Schema> : undefined;
    } catch (error) {
      more.signal?.throwIfAborted();
      if (error instanceof LinkError) throw error;
      throw new LinkError('no-answer', { cause: error });
    } finally {
      limit.end();
    }
  }

  async *#stream(
    path: string,
    init: RequestInit,
    signal: AbortSignal | undefined,
    idleMs: number,
    revision?: string,
  ): AsyncGenerator<Uint8Array> {
    const limit = new Limit(signal);
    limit.silentFor(idleMs);
    let body: ReadableStreamDefaultReader<Uint8Array> | undefined;
    try {
      const response = await limit.during(this.#fetch(path, { ...init, signal: limit.signal }));
      body = response.body?.getReader();
      // The contents must be those that were asked for: an adapter that does not say so is not believed.
      if (revision !== undefined && response.headers.get('etag') !== `"${revision}"`) {
        throw new LinkError('changed');
      }
      while (body) {
        const piece = await limit.during(body.read());
        if (piece.done) return;
        // Time that the consumer takes is not the device's silence.
        limit.sounds();
        yield piece.value;
        limit.silentFor(idleMs);
      }
    } catch (error) {
      signal?.throwIfAborted();
      if (error instanceof LinkError) throw error;
      throw new LinkError('no-answer', { cause: error });
    } finally {
      limit.end();
      // Whoever leaves early leaves the connection, too; it may be broken already.
      void body?.cancel().catch(() => undefined);
    }
  }

  async #fetch(path: string, init: RequestInit & { duplex?: 'half' }): Promise<Response> {
    const response = await fetch(this.#base + path, {
      ...init,
      headers: {
        ...(init.headers as Record<string, string>),
        authorization: `Bearer ${this.#token}`,
      },
    });
    if (response.ok) return response;
    const refusal = linkErrorSchema.safeParse(await boundedJson(response).catch(() => null));
    throw new LinkError(refusal.success ? refusal.data.error : 'no-answer');
  }
}

/** The same pieces; tells what broke them off. */
async function* watched(
  pieces: AsyncIterable<Uint8Array>,
  onError: (error: unknown) => void,
): AsyncGenerator<Uint8Array> {
  try {
    yield* pieces;
  } catch (error) {
    onError(error);
    throw error;
  }
}

/** An answer's JSON, and no more of it than an answer may have. */
async function boundedJson(response: Response): Promise<unknown> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of (response.body ?? []) as AsyncIterable<Uint8Array>) {
    bytes += piece.length;
    if (bytes > ANSWER_MAX_BYTES) throw new LinkError('no-answer');
    pieces.push(piece);
  }
  return JSON.parse(Buffer.concat(pieces).toString('utf8'));
}

function* eventsOf(sent: z.output<typeof sentEventSchema>): Generator<LinkEvent> {
  if (sent.type === 'heartbeat' || sent.type === 'left') yield sent;
  else if (sent.type === 'bench') {
    const judged = sent.devices.map(judgeDevice).filter((device) => device !== null);
    yield {
      ...sent,
      devices: judged.filter((device): device is DeviceFacts => !isOdd(device)),
      odd: judged.filter(isOdd),
    };
  } else {
    const device = judgeDevice(sent.device);
    if (device === null) return;
    yield isOdd(device) ? { type: 'odd', device } : { type: sent.type, device };
  }
}
