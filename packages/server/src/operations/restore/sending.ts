import { createHash } from 'node:crypto';
import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import { dataClasses, Failure, formatCount, problemOf, type DataClass } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';
import { counted } from '../counted.js';
import { onceTaken, throughCuts } from './wait-for-device.js';

/** The first pass of a restore: items go onto a device, where they gather until all of them are there. */
export class Sending {
  readonly #job: Job<'restore'>;
  #restore: string;
  /** What the device has of it, by path. */
  #sent = new Map<string, { state: string; bytes: number }>();

  private constructor(job: Job<'restore'>, restore: string) {
    this.#job = job;
    this.#restore = restore;
  }

  static async begin(job: Job<'restore'>): Promise<Sending> {
    const sending = new Sending(job, await begun(job));
    await job.progress.phase('sending', job.input.expected);
    return sending;
  }

  /** Sends one item, unless it is there as it is. */
  async send(item: ItemRecord, contents: AsyncIterable<Uint8Array>): Promise<void> {
    const { link, deviceId, progress, signal } = this.#job;
    signal.throwIfAborted();
    const state = stateOf(item);
    const before = this.#sent.get(item.path);
    if (before?.state === state) return;
    const pieces = counted(contents, (n) => progress.add(n, 0));
    this.#sent.delete(item.path);
    const received = await link.write(deviceId, this.#restore, entryOf(item), pieces, signal);
    if (received !== item.bytes) throw new LinkError('no-answer');
    this.#sent.set(item.path, { state, bytes: received });
    progress.add(0, before ? 0 : 1);
  }

  /** Sends every item of a backup that the device does not have as it is, and takes back what is not in it. @returns those that cannot be read */
  async sendRest(archive: OpenArchive): Promise<LeftOut> {
    await this.#takeBack(archive);
    const leftOut = new LeftOut();
    for await (const item of archive.items(this.#job.backupId)) {
      try {
        await this.send(item, archive.contents(item));
      } catch (error) {
        if (problemOf(error).code !== 'archive-damaged') throw error;
        leftOut.add(item);
        this.#job.progress.add(0, 1);
      }
    }
    return leftOut;
  }

  /** What was sent while the backup was taken, and was gone from the source before that was over. */
  async #takeBack(archive: OpenArchive): Promise<void> {
    if (this.#sent.size === 0) return;
    const gone = new Set(this.#sent.keys());
    for await (const { path } of archive.items(this.#job.backupId)) gone.delete(path);
    for (const path of gone) {
      await this.#job.link.drop(this.#job.deviceId, this.#restore, path);
      this.#sent.delete(path);
    }
  }

  /** Everything is over: the device installs it. */
  async commit(leftOut: LeftOut): Promise<void> {
    const items = this.#sent.size;
    if (items === 0 && leftOut.count > 0) throw new Failure('archive-damaged');
    const bytes = [...this.#sent.values()].reduce((sum, one) => sum + one.bytes, 0);
    await this.#job.link.commitRestore(this.#job.deviceId, this.#restore, { items, bytes });
    this.#sent.clear();
  }

  /**
   * Does something of the sending; where the device leaves meanwhile it is waited for, and it is done once more. What a device
   * received of a restore that was cut off it does not keep: all of it goes again.
   */
  throughCuts<T>(work: () => Promise<T>): Promise<T> {
    let isAgain = false;
    return throughCuts(this.#job.session, async () => {
      if (isAgain) await this.#beginAgain();
      isAgain = true;
      return work();
    });
  }

  async #beginAgain(): Promise<void> {
    this.#sent.clear();
    this.#restore = await begun(this.#job);
    await this.#job.progress.phase('sending', this.#job.input.expected);
  }
}

const begun = (job: Job<'restore'>): Promise<string> => {
  const { link, deviceId, input } = job;
  const { serial, family, osVersion } = input;
  return onceTaken(job, () =>
    link.beginRestore(deviceId, { serial, family, osVersion, ...input.expected }),
  );
};

/** All that makes an item what it is. */
function stateOf({ kind, bytes, modified, mode, chunks }: ItemRecord): string {
  const facts = `${kind} ${bytes} ${modified} ${mode ?? ''} `;
  return createHash('sha256').update(facts).update(chunks).digest('base64');
}

const entryOf = ({ class: dataClass, kind, path, bytes, modified, mode }: ItemRecord) => ({
  class: dataClass,
  kind,
  path,
  bytes,
  modified,
  mode,
});

/** Items that are damaged in the archive: left out, and told by their class. Their names are the customer's. */
export class LeftOut {
  readonly #paths = new Set<string>();
  readonly #classes = new Map<DataClass, number>();

  add({ path, class: dataClass }: ItemRecord): void {
    this.#paths.add(path);
    this.#classes.set(dataClass, (this.#classes.get(dataClass) ?? 0) + 1);
  }

  has({ path }: ItemRecord): boolean {
    return this.#paths.has(path);
  }

  get count(): number {
    return this.#paths.size;
  }

  words(): string {
    return [...this.#classes]
      .map(
        ([dataClass, count]) => `${dataClasses[dataClass].toLowerCase()} (${formatCount(count)})`,
      )
      .join(', ');
  }
}
