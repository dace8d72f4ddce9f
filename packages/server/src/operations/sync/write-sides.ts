import { createHash, randomUUID } from 'node:crypto';
import { problemOf, syncedClasses, takesNothing, type SyncedKind } from '@bright-cellar/core';
import { CrossingTarget, recordsOf } from '@bright-cellar/core/crossing';
import { mediaTypes, newBookFile, writeRecords } from '@bright-cellar/core/formats';
import type { MergedRecords, SideName } from '@bright-cellar/core/merge';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';
import type { Partner, PartnerCollection } from '../../partners/index.js';
import { onceGivenUp, passes, untilOpen } from '../restore/wait-for-device.js';
import type { AnyLine, KindInStep } from './held-syncs.js';
import { deviceFile, partnerFile } from './read-sides.js';
import type { Touched } from './remembered.js';
import { foundAfter, stepsByFile, type FileSteps } from './steps.js';

type RecordOf = MergedRecords[SyncedKind];
/** What was written on a side, by the key of its line: what it is called and says there now; null where it was removed. */
export type Written = Map<string, { id: string; record: RecordOf } | null>;

/** Told of what could not be written, and why. */
export type OnFailed = (kind: SyncedKind, reason: string, lines: number) => void;
/** Told of each file that was written, as it was read back. */
export type OnTouched = (touched: Touched) => void;

export const digestOf = (contents: Uint8Array): string =>
  createHash('sha256').update(contents).digest('hex');

/** A device that leaves in the middle is waited for so long. */
const AWAY_AT_MOST_MS = 10 * 60_000;

const addedIn = ({ lines }: FileSteps): RecordOf[] =>
  lines.flatMap(({ step }) => (step.do === 'add' ? [step.record] : []));
const recordAfter = ({ steps }: AnyLine, side: SideName): RecordOf | null => {
  const step = steps[side];
  return step.do === 'add' || step.do === 'change' ? step.record : null;
};

/** Writes one kind onto the customer's server, file by file, each as far as it is as it was read; and reads each back. */
export async function writePartner(
  job: Job<'sync'>,
  { kind, partner: book, lines }: KindInStep,
  partner: Partner,
  into: PartnerCollection,
  onFailed: OnFailed,
  onTouched: OnTouched,
): Promise<Written> {
  const written: Written = new Map();
  for (const steps of stepsByFile('partner', book, lines)) {
    job.signal.throwIfAborted();
    const { file } = steps;
    try {
      let id = file?.id ?? null;
      if (!file) id = await createdOn(partner, into, steps);
      else {
        const contents = book.patched(
          file,
          steps.lines.map(({ step }) => step),
        );
        if (contents === null) await partner.remove(file);
        else await partner.replace(file, contents);
      }
      const now = id === null ? null : await partner.resource(into, id);
      if (id !== null)
        onTouched({ side: 'partner', kind, id, after: now && digestOf(now.contents) });
      for (const { line } of steps.lines) {
        const meant = recordAfter(line, 'partner');
        if (meant === null) written.set(line.key, null);
        else {
          const found = now && foundAfter(kind, partnerFile(kind, now), meant);
          if (found) written.set(line.key, found);
          else onFailed(kind, 'it is not there as it was sent', 1);
        }
        job.progress.add(0, 1);
      }
    } catch (error) {
      if (problemOf(error).code !== 'changed-meanwhile') throw error;
      onFailed(kind, 'the customer’s server had it changed meanwhile', steps.lines.length);
    }
  }
  return written;
}

async function createdOn(
  partner: Partner,
  into: PartnerCollection,
  steps: FileSteps,
): Promise<string> {
  const name = randomUUID();
  // Who had no mark of its own gets one: the server wants it.
  return partner.create(into, name, newBookFile(into.kind, addedIn(steps), name));
}

/** Writes kinds onto the device, file by file, each as far as it is as it was read. A device that leaves is waited for. */
export class DeviceWriter {
  readonly #job: Job<'sync'>;
  readonly #onFailed: OnFailed;
  readonly #onTouched: OnTouched;
  readonly #target: CrossingTarget;
  #addition: string | null = null;
  /** What lies where once all was written, by its path. */
  readonly #meant = new Map<
    string,
    { kind: SyncedKind; lines: readonly AnyLine[]; digest: string }
  >();
  readonly #removed: { keys: string[]; kind: SyncedKind; path: string }[] = [];

  private constructor(
    job: Job<'sync'>,
    target: CrossingTarget,
    onFailed: OnFailed,
    onTouched: OnTouched,
  ) {
    this.#job = job;
    this.#target = target;
    this.#onFailed = onFailed;
    this.#onTouched = onTouched;
  }

  static async open(
    job: Job<'sync'>,
    kinds: readonly Pick<KindInStep, 'kind' | 'device'>[],
    onFailed: OnFailed,
    onTouched: OnTouched,
  ): Promise<DeviceWriter> {
    const { takes } = (await job.link.facts(job.deviceId)).capabilities;
    const target = new CrossingTarget(takes ?? takesNothing, false);
    for (const { kind, device } of kinds) {
      for (const path of [...device.files.keys(), ...device.unreadable])
        target.holds({ class: syncedClasses[kind], path }, null);
    }
    return new DeviceWriter(job, target, onFailed, onTouched);
  }

  async write({ kind, device: book, lines }: KindInStep): Promise<void> {
    const isOld =
      this.#target.takingOfKind(syncedClasses[kind], kind)?.format === mediaTypes.oldCalendar;
    const fits = lines.filter((line) => {
      const record = recordAfter(line, 'device');
      const isException = record !== null && 'instead' in record && record.instead !== null;
      if (isOld && isException)
        this.#onFailed(kind, 'the device keeps no occurrence that differs from the others', 1);
      return !isOld || !isException;
    });
    for (const steps of stepsByFile('device', book, fits)) {
      this.#job.signal.throwIfAborted();
      const { file } = steps;
      if (!file) for (const one of steps.lines) await this.#addOne(kind, one.line);
      else {
        const contents = book.patched(
          file,
          steps.lines.map(({ step }) => step),
        );
        const meant = steps.lines.map(({ line }) => line);
        const entry = { path: file.id, revision: file.tag };
        if (contents === null) await this.take(kind, entry, meant);
        else await this.put(kind, file.id, contents, meant, file.tag);
      }
    }
  }

  /** On a device each record lies by itself. */
  async #addOne(kind: SyncedKind, line: AnyLine): Promise<void> {
    const record = recordAfter(line, 'device');
    const taking = this.#target.takingOfKind(syncedClasses[kind], kind);
    if (record === null || taking?.format == null) {
      this.#onFailed(kind, 'the device has no place for it', 1);
      return;
    }
    const path = this.#target.freeNumber(taking.place, (n) => taking.place.replace('{n}', n));
    const contents = writeRecords(taking.format, recordsOf(kind, [record]), path);
    await this.put(kind, path, contents, [line]);
  }

  /** Takes one file away that is as it was read. */
  async take(
    kind: SyncedKind,
    entry: { path: string; revision: string },
    lines: readonly AnyLine[],
  ): Promise<void> {
    await this.#once(kind, Math.max(1, lines.length), (addition) =>
      this.#job.link.takeAway(this.#job.deviceId, addition, entry),
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
    const { link, deviceId, signal, progress } = this.#job;
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
          this.#onFailed(kind, 'it was changed on the device meanwhile', count);
          return;
        }
        if (!passes(error)) throw error;
        this.#addition = null;
        this.#job.progress.rest();
        await untilOpen(this.#job, AWAY_AT_MOST_MS);
      }
    }
  }

  #begin(): Promise<string> {
    const { link, deviceId, input, signal } = this.#job;
    return onceGivenUp(() => link.beginAddition(deviceId, input.serial), signal);
  }

  /** Whoever was stopped lets the device go on at once. */
  async giveUp(): Promise<void> {
    if (this.#addition === null) return;
    await this.#job.link.endAddition(this.#job.deviceId).catch(() => undefined);
  }

  /** The device looks through its contents anew; what was written is read back. */
  async end(): Promise<Written> {
    const { link, deviceId, signal } = this.#job;
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
      this.#onTouched({ side: 'device', kind, id: path, after: null });
    }
    for (const [path, { kind, lines, digest }] of this.#meant) {
      const entry = there.get(path);
      const now = entry && (await deviceFile(this.#job, entry));
      // What somebody wrote there meanwhile is not what was sent.
      const file = now && digestOf(now.contents) === digest ? now : null;
      if (file) this.#onTouched({ side: 'device', kind, id: path, after: digestOf(file.contents) });
      for (const line of lines) {
        const meant = recordAfter(line, 'device');
        const found = file && meant && foundAfter(kind, file, meant);
        if (meant === null) written.set(line.key, null);
        else if (found) written.set(line.key, found);
        else this.#onFailed(kind, 'it is not there as it was sent', 1);
      }
    }
    return written;
  }
}

async function* once(contents: Uint8Array): AsyncGenerator<Uint8Array> {
  yield contents;
}
