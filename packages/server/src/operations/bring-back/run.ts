import {
  CrossingTally,
  countOf,
  failedCount,
  formatCount,
  goesOver,
  type DataClass,
  takesNothing,
} from '@bright-cellar/core';
import {
  crossRecords,
  CrossingTarget,
  movedTo,
  type Outgoing,
  type ReadItem,
} from '@bright-cellar/core/crossing';
import type { ReadBack } from '@bright-cellar/core/extract';
import type { Records } from '@bright-cellar/core/formats';
import type { Ending, Job, Run } from '../../engine/job.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { countPiece, sizeOf, type Piece } from '../cross/crossing.js';
import { lookAtDevice } from '../cross/look-at-device.js';
import { failedOf, readBack, sendAll, type Sender } from '../cross/send.js';
import { waitForDevice } from '../restore/wait-for-device.js';
import { readHeld, type HeldPicture } from './held-files.js';

/** Reads what is on the device, and sends what of a file is not; or only says what that would be. */
async function bringBack(job: Job<'bringBack'>): Promise<Ending<'bringBack'>> {
  const { input, progress } = job;
  const elapsed = stopwatch();
  const read = readHeld(input.file, job.startedBy);
  const { messages, calls } = read;
  const parts: Part[] = [
    ...(messages.length > 0
      ? [{ class: 'messages' as const, records: { kind: 'messages' as const, messages } }]
      : []),
    ...(calls.length > 0
      ? [{ class: 'calls' as const, records: { kind: 'calls' as const, calls } }]
      : []),
  ];
  try {
    const sender = await OfFile.open(job, parts, read.pictures);
    if (input.writes) {
      const sent = await sendAll(job, sender);
      if (!input.adds) await waitForDevice(job);
      await readBack(job, sender, sent);
    } else {
      await progress.phase('sending', { bytes: 0, items: 0 });
      for (const piece of sender.all) sender.count(piece, sizeOf(piece));
    }
    const report = sender.tally.report();
    const failed = failedOf(report);
    const went = report.reduce((sum, one) => sum + goesOver(one), 0);
    return {
      what: input.writes
        ? `${countOf(went, 'item')} brought back, each read back${failedCount(failed) > 0 ? `; ${formatCount(failedCount(failed))} did not arrive` : ''}.`
        : `${countOf(went, 'item')} would be brought back.`,
      result: {
        items: went,
        bytes: report.reduce((sum, { bytes }) => sum + bytes, 0),
        failed,
        durationMs: elapsed(),
        ...{ report, wrote: input.writes, leftOut: read.leftOut.length },
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was over.',
      safe: 'The file is as it was. What arrived on the device is there, each item whole.',
      next: 'Connect the device, and bring the file once more: what is there is not sent twice.',
    });
  }
}

interface Part {
  class: DataClass;
  records: Records;
}

/** Records of a file as they go onto a device, and the pictures beside it. */
class OfFile implements Sender {
  readonly tally = new CrossingTally();
  readonly all: Piece[] = [];
  readonly #pictures: ReadonlyMap<string, HeldPicture>;

  private constructor(pictures: readonly HeldPicture[]) {
    this.#pictures = new Map(pictures.map((one) => [one.path, one]));
  }

  static async open(
    job: Job<'bringBack'>,
    parts: readonly Part[],
    pictures: readonly HeldPicture[],
  ): Promise<OfFile> {
    const of = new OfFile(pictures);
    const { takes } = (await job.link.facts(job.deviceId)).capabilities;
    // What a file says is of no family: all of it is written as this device reads it.
    const target = new CrossingTarget(takes ?? takesNothing, false);
    await lookAtDevice(
      job,
      parts.map((part) => part.class),
      target,
    );
    for (const { class: dataClass, records } of parts) {
      const taking = target.takingOfKind(dataClass, records.kind);
      const item = { class: dataClass, kind: 'file', path: `${dataClass}/of-a-file`, format: null };
      if (taking)
        of.#add([{ item: { ...item, kind: 'file' }, records, taking, isPart: true }], target);
      else of.tally.stays(dataClass, 'no-place');
    }
    return of;
  }

  #add(read: readonly ReadItem[], target: CrossingTarget): void {
    const files = crossRecords(read, target, this.tally);
    // Pictures first: a message that is there is taken to have its own.
    for (const { records } of read) {
      if (records.kind === 'messages') this.#addPictures(records.messages, files, target);
    }
    for (const file of files) {
      const { contents } = file;
      // Written anew, all of it: there is no item that it could be.
      if (contents instanceof Uint8Array)
        this.all.push({ what: 'records', file: { ...file, contents } });
    }
  }

  /** Those that came with what goes over, each into the folder of its conversation. */
  #addPictures(
    messages: ReadBack['messages'],
    files: readonly Outgoing[],
    target: CrossingTarget,
  ): void {
    const going = new Set(
      files.flatMap(({ meant }) =>
        meant.flatMap((record) => ('attachment' in record ? (record.attachment ?? []) : [])),
      ),
    );
    for (const { attachment, thread, at } of messages) {
      const picture = this.#pictures.get(attachment ?? '');
      if (!picture) continue;
      const moved = movedTo(picture.path, target.placeOf(thread));
      // Each once: the same picture may have been sent twice.
      if (!going.delete(moved) && !going.delete(picture.path)) continue;
      const item = { class: 'messages' as const, kind: 'file' as const, path: picture.path };
      const way = target.wayOf({ ...item, format: picture.format });
      if (way.way !== 'file') this.tally.stays('messages', 'no-place');
      else if (target.has(moved)) this.tally.add('messages', 'present');
      else {
        const { length: bytes } = picture.contents;
        this.all.push({
          ...{ what: 'file', path: target.freePath(moved), isShown: way.isShown, isBeside: false },
          item: { ...item, bytes, modified: at.toISOString(), mode: null },
        });
      }
    }
  }

  async *pieces(): AsyncGenerator<Piece> {
    yield* this.all;
  }

  async *contents(piece: Piece): AsyncGenerator<Uint8Array> {
    const contents =
      piece.what === 'file' ? this.#pictures.get(piece.item.path)?.contents : piece.file.contents;
    if (contents instanceof Uint8Array) yield contents;
  }

  count(piece: Piece, bytes: number): void {
    countPiece(piece, bytes, this.tally);
  }
}

export const bringBackRun: Run<'bringBack'> = {
  run: bringBack,
  abandon: async ({ deviceId, input }, { link }) => {
    if (input.adds) await link.endAddition(deviceId).catch(() => undefined);
  },
};
