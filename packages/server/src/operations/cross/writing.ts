import { createHash } from 'node:crypto';
import { LinkError, type NewEntry } from '@bright-cellar/device-link';
import type { SendingJob } from './jobs.js';
import { CUTS_AT_MOST, onceTaken } from '../restore/wait-for-device.js';

/** The way onto a device: beside what is on it, each file by itself; or all at once, while it is empty. */
export class Writing {
  readonly #job: SendingJob;
  #id: string;
  #items = 0;
  #bytes = 0;

  private constructor(job: SendingJob, id: string) {
    this.#job = job;
    this.#id = id;
  }

  static async begin(job: SendingJob): Promise<Writing> {
    const { input, link, deviceId } = job;
    if (input.adds) return new Writing(job, await addition(job));
    const { osVersion } = await link.facts(deviceId);
    const begin = () =>
      link.beginRestore(deviceId, {
        ...{ serial: input.serial, family: input.family, osVersion },
        ...input.expected,
      });
    const id = await onceTaken(job, begin);
    return new Writing(job, id);
  }

  /**
   * Sends one file. What is added one by one survives a cut: the device is waited for, and the file goes again.
   * @returns the digest (SHA-256, hexadecimal) of what was sent
   */
  async write(entry: NewEntry, contents: () => AsyncIterable<Uint8Array>): Promise<string> {
    for (let attempt = 1; ; attempt += 1) {
      const digest = createHash('sha256');
      try {
        const received = await this.#send(entry, hashed(contents(), digest));
        if (received !== entry.bytes) throw new LinkError('no-answer');
        this.#items += 1;
        this.#bytes += received;
        return digest.digest('hex');
      } catch (error) {
        // Sent whole, and cut before the answer: whether it is there as it was sent is read afterwards.
        const isThere = error instanceof LinkError && error.code === 'exists' && attempt > 1;
        if (isThere) return await digestOf(contents());
        if (!this.#job.input.adds || attempt > CUTS_AT_MOST) throw error;
        await this.#job.session.untilBack(error);
        this.#id = await addition(this.#job);
      }
    }
  }

  #send(entry: NewEntry, contents: AsyncIterable<Uint8Array>): Promise<number> {
    const { link, deviceId, input, signal } = this.#job;
    return input.adds
      ? link.add(deviceId, this.#id, entry, contents, signal)
      : link.write(deviceId, this.#id, entry, contents, signal);
  }

  /** Whoever was stopped lets the device go on at once; one that nobody tells gives up by itself after a while. */
  async giveUp(): Promise<void> {
    const { link, deviceId, input } = this.#job;
    if (input.adds) await link.endAddition(deviceId).catch(() => undefined);
  }

  async end(): Promise<void> {
    const { link, deviceId, input } = this.#job;
    if (input.adds) await link.endAddition(deviceId);
    else await link.commitRestore(deviceId, this.#id, { items: this.#items, bytes: this.#bytes });
  }
}

const addition = (job: SendingJob): Promise<string> =>
  onceTaken(job, () => job.link.beginAddition(job.deviceId, job.input.serial));

async function* hashed(
  pieces: AsyncIterable<Uint8Array>,
  digest: ReturnType<typeof createHash>,
): AsyncGenerator<Uint8Array> {
  for await (const piece of pieces) {
    digest.update(piece);
    yield piece;
  }
}

/** SHA-256, hexadecimal. */
export async function digestOf(
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
): Promise<string> {
  const digest = createHash('sha256');
  for await (const piece of pieces) digest.update(piece);
  return digest.digest('hex');
}
