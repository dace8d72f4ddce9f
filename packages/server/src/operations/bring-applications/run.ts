import { createHash } from 'node:crypto';
import {
  countOf,
  CrossingTally,
  groupOfPath,
  problemOf,
  type ApplicationManifest,
  takesNothing,
} from '@bright-cellar/core';
import { CrossingTarget } from '@bright-cellar/core/crossing';
import type { Entry } from '@bright-cellar/device-link';
import type { Ending, Job, Run } from '../../engine/job.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import type { Piece, SentItem } from '../cross/crossing.js';
import { lookAtDevice } from '../cross/look-at-device.js';
import { failedOf, readBack, sendAll, type Sender } from '../cross/send.js';
import { whenOpen } from '../cross/when-open.js';
import { waitForDevice } from '../restore/wait-for-device.js';
import { OpenPackage } from './open-package.js';
import { packagePath } from './packages.js';

/** Checks every package whole, then sends what the device does not have, and reads it back. */
async function bringApplications(
  job: Job<'bringApplications'>,
): Promise<Ending<'bringApplications'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const opened: OpenPackage[] = [];
  try {
    const sender = await checked(job, opened);
    const sent = await sendAll(job, sender);
    if (!input.adds) await waitForDevice(job);
    await readBack(job, sender, sent);
    const report = sender.tally.report();
    const failed = failedOf(report);
    const items = sender.arrived;
    const applications = sender.wholeApplications();
    return {
      what: `${countOf(applications, 'application')} brought back with ${countOf(items, 'file')}, each read back.`,
      result: {
        ...{ items, failed, durationMs: elapsed(), report, applications },
        bytes: report.reduce((sum, { bytes }) => sum + bytes, 0),
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was over.',
      safe: 'The packages are as they were. What arrived on the device is there, each file whole.',
      next: 'Connect the device, and bring them once more: what is there is not sent twice.',
    });
  } finally {
    for (const one of opened) one.close();
  }
}

/** Opens and reads every package before anything is sent: one that is damaged does not begin. */
async function checked(job: Job<'bringApplications'>, opened: OpenPackage[]): Promise<OfPackages> {
  const { input, progress, signal } = job;
  const tally = new CrossingTally();
  await progress.phase('checking', { bytes: input.expected.bytes, items: input.packages.length });
  const whole: OpenPackage[] = [];
  for (const at of input.packages) {
    const one = await OpenPackage.open(await packagePath(job.db, input.ticket, at));
    opened.push(one);
    try {
      await one.check((bytes) => progress.add(bytes, 0), signal);
      whole.push(one);
    } catch (error) {
      if (problemOf(error).code !== 'package-damaged') throw error;
      tally.stays('applications', 'damaged', one.manifest.files.length);
    }
    progress.add(0, 1);
  }
  const { takes } = (await job.link.facts(job.deviceId)).capabilities;
  const sender = new OfPackages(job, tally);
  for (const one of whole) {
    const isSameFamily = one.manifest.device.family === input.family;
    const target = new CrossingTarget(takes ?? takesNothing, isSameFamily);
    await sender.add(one, target);
  }
  return sender;
}

interface FromPackage extends SentItem {
  of: OpenPackage;
  /** Below the package's data. */
  inside: string;
}

class OfPackages implements Sender<FromPackage> {
  readonly tally: CrossingTally;
  readonly #job: Job<'bringApplications'>;
  readonly #pieces: Piece<FromPackage>[] = [];
  /** Files of each application that are not on the device yet. */
  readonly #missing = new Map<string, number>();
  arrived = 0;

  constructor(job: Job<'bringApplications'>, tally: CrossingTally) {
    this.#job = job;
    this.tally = tally;
  }

  /** What of a package the device does not have. An application with data of its own is left alone. */
  async add(of: OpenPackage, target: CrossingTarget): Promise<void> {
    const { id, files } = of.manifest;
    const onDevice = new Map<string, Entry>();
    for (const entry of await lookAtDevice(this.#job, ['applications'], target)) {
      if (groupOfPath(entry.path) === id) onDevice.set(entry.path, entry);
    }
    if (!(await this.#isAllOf(of.manifest, onDevice))) target.ownsApplication(id);
    this.#missing.set(id, 0);
    for (const { path: inside, bytes, modified } of files) {
      const path = `applications/${id}/${inside}`;
      const item = {
        class: 'applications',
        kind: 'file',
        path,
        bytes,
        modified,
        mode: null,
      } as const;
      const way = target.wayOf(item);
      if (way.way === 'stays') this.tally.stays('applications', way.why);
      else if (onDevice.has(path)) this.tally.add('applications', 'present');
      else {
        this.#pieces.push({
          ...{ what: 'file', item: { ...item, of, inside }, path, isShown: true, isBeside: false },
        });
      }
      if (way.way === 'stays' || !onDevice.has(path))
        this.#missing.set(id, (this.#missing.get(id) ?? 0) + 1);
    }
  }

  /** Whether all that is there is the package's: then it was cut on its way, and goes on. */
  async #isAllOf(
    { id, files }: ApplicationManifest,
    onDevice: ReadonlyMap<string, Entry>,
  ): Promise<boolean> {
    const digests = new Map(files.map((file) => [`applications/${id}/${file.path}`, file.sha512]));
    for (const [path, entry] of onDevice) {
      const digest = digests.get(path);
      if (digest === undefined || (await this.#digestOf(entry)) !== digest) return false;
    }
    return true;
  }

  #digestOf(entry: Entry): Promise<string> {
    const { link, deviceId, signal } = this.#job;
    return whenOpen(this.#job, entry, async () => {
      const hash = createHash('sha512');
      for await (const piece of link.read(deviceId, entry, signal)) hash.update(piece);
      return hash.digest('hex');
    });
  }

  async *pieces(): AsyncGenerator<Piece<FromPackage>> {
    yield* this.#pieces;
  }

  async *contents(piece: Piece<FromPackage>): AsyncGenerator<Uint8Array> {
    if (piece.what === 'file') yield* piece.item.of.contents(piece.item.inside);
  }

  count(piece: Piece, bytes: number): void {
    if (piece.what !== 'file') return;
    this.tally.goes('applications', []);
    this.tally.add('applications', 'bytes', bytes);
    this.arrived += 1;
    const id = groupOfPath(piece.item.path);
    this.#missing.set(id, (this.#missing.get(id) ?? 0) - 1);
  }

  /** Applications of which all is on the device. */
  wholeApplications(): number {
    return [...this.#missing.values()].filter((missing) => missing === 0).length;
  }
}

export const bringApplicationsRun: Run<'bringApplications'> = {
  run: bringApplications,
  abandon: async ({ deviceId, input }, { link }) => {
    if (input.adds) await link.endAddition(deviceId).catch(() => undefined);
  },
};
