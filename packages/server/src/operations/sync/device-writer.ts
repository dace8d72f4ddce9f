import { syncedClasses, takesNothing, type SyncedKind } from '@bright-cellar/core';
import { CrossingTarget, recordsOf } from '@bright-cellar/core/crossing';
import { writeRecords } from '@bright-cellar/core/formats';
import type { SideName } from '@bright-cellar/core/merge';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';
import { CUTS_AT_MOST, onceTaken } from '../restore/wait-for-device.js';
import type { KindInStep } from './held-syncs.js';
import type { AnyLine } from '@bright-cellar/core/merge';
import type { DeviceEnd } from './other-side.js';
import { deviceFile } from './read-sides.js';
import { recurringOn, type SideBook } from './side-book.js';
import { foundAfter, stepsByFile } from './steps.js';
import { digestOf, recordAfter, type Telling, type Written } from './writing.js';

/** Writes kinds onto a device, file by file, each as far as it is as it was read. A device that leaves is waited for. */
export class DeviceWriter {
  readonly #job: Job<'sync'>;
  readonly #end: DeviceEnd;
  readonly #telling: Telling;
  readonly #target: CrossingTarget;
  #addition: string | null = null;
  /** What lies where once all was written, by its path. */
  readonly #meant = new Map<
    string,
    { kind: SyncedKind; lines: readonly AnyLine[]; digest: string }
  >();
  readonly #books = new Map<SyncedKind, SideBook>();
  readonly #removed: { keys: string[]; kind: SyncedKind; path: string }[] = [];

  private constructor(job: Job<'sync'>, end: DeviceEnd, target: CrossingTarget, telling: Telling) {
    this.#job = job;
    this.#end = end;
    this.#target = target;
    this.#telling = telling;
  }

  static async open(
    job: Job<'sync'>,
    end: DeviceEnd,
    books: Iterable<SideBook>,
    telling: Telling,
  ): Promise<DeviceWriter> {
    const { takes } = (await job.link.facts(end.deviceId)).capabilities;
    const target = new CrossingTarget(takes ?? takesNothing, false);
    for (const { kind, files, unreadable } of books) {
      for (const path of [...files.keys(), ...unreadable])
        target.holds({ class: syncedClasses[kind], path }, null);
    }
    return new DeviceWriter(job, end, target, telling);
  }

  get side(): SideName {
    return this.#end.side;
  }

  async write({ kind, lines, ...of }: KindInStep): Promise<void> {
    const { side } = this.#end;
    const book = of[side];
    this.#books.set(kind, book);
    const recurring = recurringOn(side, lines);
    const fits = lines.filter((line) => {
      const record = recordAfter(line, side);
      if (record === null || book.hasPlaceFor(record, recurring)) return true;
      this.#telling.failed(kind, 'the device does not say which event it is an occurrence of', 1);
      return false;
    });
    for (const steps of stepsByFile(side, book, fits)) {
      this.#job.signal.throwIfAborted();
      const { file } = steps;
      if (!file) for (const { line } of steps.lines) await this.#addOne(kind, book, line);
      else {
        const contents = book.patched(
          file,
          steps.lines.map(({ step }) => step),
        );
        const meant = steps.lines.flatMap(({ line }) => line ?? []);
        const entry = { path: file.id, revision: file.tag };
        if (contents === null) await this.take(kind, entry, meant);
        else await this.put(kind, file.id, contents, meant, file.tag);
      }
    }
  }

  /** On a device each record lies by itself. */
  async #addOne(kind: SyncedKind, book: SideBook, line: AnyLine | null): Promise<void> {
    const record = line && recordAfter(line, this.#end.side);
    const taking = this.#target.takingOfKind(syncedClasses[kind], kind);
    if (!line || record === null || taking?.format == null) {
      this.#telling.failed(kind, 'the device has no place for it', 1);
      return;
    }
    const path = this.#target.freeNumber(taking.place, (n) => taking.place.replace('{n}', n));
    const contents = writeRecords(taking.format, recordsOf(kind, [book.asKept(record)]), path);
    await this.put(kind, path, contents, [line]);
  }

  /** Takes one file away that is as it was read. */
  async take(
    kind: SyncedKind,
    entry: { path: string; revision: string },
    lines: readonly AnyLine[],
  ): Promise<void> {
    await this.#once(kind, Math.max(1, lines.length), (addition) =>
      this.#job.link.takeAway(this.#end.deviceId, addition, entry),
    );
    this.#removed.push({ keys: lines.map(({ key }) => key), kind, path: entry.path });
  }

  /** Writes one file: anew, or in the place of what is as it was read. */
  async put(
    kind: SyncedKind,
    path: string,
    contents: Uint8Array,
    lines: readonly AnyLine[],
    replaces?: string,
  ): Promise<void> {
    const { link, signal, progress } = this.#job;
    const { deviceId } = this.#end;
    const entry = {
      ...{
        class: syncedClasses[kind],
        kind: 'file' as const,
        path,
        bytes: contents.length,
        mode: null,
      },
      modified: new Date().toISOString(),
    };
    await this.#once(kind, Math.max(1, lines.length), (addition) =>
      link.add(deviceId, addition, entry, once(contents), signal, replaces),
    );
    this.#meant.set(path, { kind, lines, digest: digestOf(contents) });
    progress.add(contents.length, Math.max(1, lines.length));
  }

  /** Whether it is there as it was sent is read afterwards: an answer may be lost with the cable. */
  async #once(
    kind: SyncedKind,
    count: number,
    write: (addition: string) => Promise<unknown>,
  ): Promise<void> {
    for (let attempt = 1; ; attempt += 1) {
      try {
        this.#addition ??= await this.#begin();
        await write(this.#addition);
        return;
      } catch (error) {
        const code = error instanceof LinkError ? error.code : null;
        if (code !== null && attempt > 1 && ['exists', 'changed', 'no-such-entry'].includes(code))
          return;
        if (code === 'changed' || code === 'no-such-entry' || code === 'exists') {
          this.#telling.failed(kind, 'it was changed on the device meanwhile', count);
          return;
        }
        if (attempt > CUTS_AT_MOST) throw error;
        await this.#job.session.of(this.#end.deviceId).untilBack(error);
        this.#addition = null;
      }
    }
  }

  #begin(): Promise<string> {
    const { link, signal, session } = this.#job;
    const { deviceId, serial } = this.#end;
    const at = { signal, session: session.of(deviceId) };
    return onceTaken(at, () => link.beginAddition(deviceId, serial));
  }

  /** Whoever was stopped lets the device go on at once. */
  async giveUp(): Promise<void> {
    if (this.#addition === null) return;
    await this.#job.link.endAddition(this.#end.deviceId).catch(() => undefined);
  }

  /** The device looks through its contents anew; what was written is read back. */
  async end(): Promise<Written> {
    const { link, signal } = this.#job;
    const { deviceId, side } = this.#end;
    const written: Written = new Map();
    if (this.#addition === null) return written;
    await link.endAddition(deviceId);
    const kinds = new Set([...this.#meant.values(), ...this.#removed].map(({ kind }) => kind));
    const there = new Map<string, Entry>();
    for (const kind of kinds) {
      for await (const entry of link.entries(deviceId, syncedClasses[kind], signal))
        there.set(entry.path, entry);
    }
    for (const { keys, kind, path } of this.#removed) {
      if (there.has(path)) continue;
      for (const key of keys) written.set(key, null);
      this.#telling.touched({ side, kind, id: path, after: null });
    }
    for (const [path, { kind, lines, digest }] of this.#meant) {
      const entry = there.get(path);
      const now = entry && (await deviceFile(this.#job, deviceId, entry));
      // What somebody wrote there meanwhile is not what was sent.
      const file = now && digestOf(now.contents) === digest ? now : null;
      if (file) this.#telling.touched({ side, kind, id: path, after: digestOf(file.contents) });
      for (const line of lines) {
        const meant = recordAfter(line, side);
        const book = this.#books.get(kind);
        const found = file && meant && book && foundAfter(kind, book, file, meant);
        if (meant === null) written.set(line.key, null);
        else if (found) written.set(line.key, found);
        else this.#telling.failed(kind, 'it is not there as it was sent', 1);
      }
    }
    return written;
  }
}

async function* once(contents: Uint8Array): AsyncGenerator<Uint8Array> {
  yield contents;
}
