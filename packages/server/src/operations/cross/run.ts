import type { ItemRecord, OpenArchive } from '@bright-cellar/archive';
import {
  countOf,
  failedCount,
  formatCount,
  goesOver,
  otherwiseThan,
  problemOf,
  staysBehind,
  type CrossingReport,
  type DataClass,
} from '@bright-cellar/core';
import type { Entry, NewEntry } from '@bright-cellar/device-link';
import type { Ending, Job, Run } from '../../engine/job.js';
import { linkFailure } from '../../engine/link-failures.js';
import { stopwatch } from '../../engine/stopwatch.js';
import { openCopy } from '../open-copy.js';
import { counted } from '../counted.js';
import { waitForDevice } from '../restore/wait-for-device.js';
import { Crossing, sizeOf, type Piece } from './crossing.js';
import { selectionToSend } from './picks.js';
import { whenOpen } from './when-open.js';
import { digestOf, Writing } from './writing.js';

/** What was sent, to be looked for again. */
interface Sent {
  /** Without what it holds: only what is counted of it is kept. */
  piece: Piece;
  path: string;
  class: DataClass;
  bytes: number;
  digest: string;
}

/** Sends what was foreseen, then reads every piece of it back from the device. */
async function sendAcross(job: Job<'cross'>): Promise<Ending<'cross'>> {
  const { input } = job;
  const elapsed = stopwatch();
  const archive = await openCopy(job, job.input.copyId);
  try {
    const selected = selectionToSend(input, input.foresaw);
    const crossing = await Crossing.open(job, archive, selected.selection);
    crossing.staysInStores(selected.inStores);
    const sent = await send(job, archive, crossing);
    if (!input.adds) await waitForDevice(job);
    await readBack(job, crossing, sent);
    const report = crossing.tally.report();
    const went = report.reduce((sum, one) => sum + goesOver(one), 0);
    const stayed = report.reduce((sum, one) => sum + staysBehind(one), 0);
    const failed = failedOf(report);
    return {
      what:
        `${countOf(went, 'item')} arrived, each read back; ${formatCount(stayed)} stayed` +
        `${failedCount(failed) > 0 ? `, of which ${formatCount(failedCount(failed))} were sent and did not arrive` : ''}.`,
      result: {
        items: went,
        bytes: report.reduce((sum, { bytes }) => sum + bytes, 0),
        failed,
        durationMs: elapsed(),
        ...{ report, otherwise: otherwiseThan(input.foreseen, report) },
      },
    };
  } catch (error) {
    throw linkFailure(error, {
      what: 'The device left the bench before all of it was over.',
      ...(input.adds
        ? {
            safe: 'The backup on the rack is unchanged. What arrived on the device is there, each item whole.',
            next: 'Connect the device, ask for the loss report again, and start once more: what is there is not sent twice.',
          }
        : {
            safe: 'The backup on the rack is unchanged. The device took nothing.',
            next: 'Connect the device. If it is not at its welcome screen, erase it; then start again.',
          }),
    });
  } finally {
    await archive.close();
  }
}

const failedOf = (report: CrossingReport) =>
  report.flatMap((one) =>
    one.stays
      .filter(({ why }) => why === 'not-arrived')
      .map(({ count }) => ({
        class: one.class,
        reason: 'it did not arrive as it was sent',
        count,
      })),
  );

async function send(job: Job<'cross'>, archive: OpenArchive, crossing: Crossing): Promise<Sent[]> {
  const { progress, input, signal } = job;
  await progress.phase('sending', input.expected);
  const writing = await Writing.begin(job);
  const sent: Sent[] = [];
  try {
    for await (const piece of crossing.pieces()) {
      signal.throwIfAborted();
      const entry = entryOf(piece);
      const contents = () => counted(contentsOf(archive, piece), (n) => progress.add(n, 0));
      try {
        const digest = await writing.write(entry, contents);
        progress.add(0, 1);
        sent.push({
          ...{ piece: emptied(piece), path: entry.path, class: entry.class },
          ...{ bytes: sizeOf(piece), digest },
        });
      } catch (error) {
        if (problemOf(error).code !== 'archive-damaged') throw error;
        crossing.tally.stays(entry.class, 'damaged');
      }
    }
  } catch (error) {
    await writing.giveUp();
    throw error;
  }
  await writing.end();
  return sent;
}

/** What counts of a piece stays in memory until it was read back; what it holds does not. */
const emptied = (piece: Piece): Piece =>
  piece.what === 'records'
    ? { ...piece, file: { ...piece.file, meant: [], contents: new Uint8Array() } }
    : piece;

function entryOf(piece: Piece): NewEntry {
  const {
    class: dataClass,
    kind,
    modified,
    mode,
  } = piece.what === 'file' ? piece.item : describedBy(piece.file);
  const path = piece.what === 'file' ? piece.path : piece.file.path;
  return { class: dataClass, kind, path, bytes: sizeOf(piece), modified, mode };
}

function describedBy(file: Extract<Piece, { what: 'records' }>['file']) {
  if (!(file.contents instanceof Uint8Array)) return file.contents;
  return {
    class: file.class,
    kind: 'file' as const,
    modified: (file.modified ?? new Date(0)).toISOString(),
    mode: null,
  };
}

async function* contentsOf(archive: OpenArchive, piece: Piece): AsyncGenerator<Uint8Array> {
  const from: ItemRecord | Uint8Array = piece.what === 'file' ? piece.item : piece.file.contents;
  if (from instanceof Uint8Array) yield from;
  else if (from.kind !== 'folder') yield* archive.contents(from);
}

/** Reads every piece back from the device: only what is there as it was sent has arrived. */
async function readBack(
  job: Job<'cross'>,
  crossing: Crossing,
  sent: readonly Sent[],
): Promise<void> {
  const { link, progress, signal, input } = job;
  const device = job.deviceId;
  await progress.phase('comparing', input.expected);
  const onDevice = new Map<string, Entry>();
  for (const dataClass of new Set(sent.map((one) => one.class))) {
    for await (const entry of link.entries(device, dataClass, signal)) {
      onDevice.set(entry.path, entry);
    }
  }
  for (const { piece, path, class: dataClass, bytes, digest } of sent) {
    signal.throwIfAborted();
    const entry = onDevice.get(path);
    const isThere = entry !== undefined && (await digestOn(job, entry)) === digest;
    if (isThere) crossing.count(piece, bytes);
    else crossing.tally.stays(dataClass, 'not-arrived');
    progress.add(bytes, 1);
  }
  await progress.needs(null);
}

/** The digest of what the device has. */
function digestOn(job: Job<'cross'>, entry: Entry): Promise<string> {
  const { link, signal } = job;
  if (entry.kind === 'folder') return digestOf([]);
  return whenOpen(job, entry, () => digestOf(link.read(job.deviceId, entry, signal)));
}

export const crossRun: Run<'cross'> = {
  run: sendAcross,
  abandon: async ({ deviceId, input }, { link }) => {
    if (input.adds) await link.endAddition(deviceId).catch(() => undefined);
  },
};
