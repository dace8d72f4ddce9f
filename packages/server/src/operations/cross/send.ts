import {
  problemOf,
  type CrossingReport,
  type CrossingTally,
  type DataClass,
} from '@bright-cellar/core';
import { readAhead, type Entry, type NewEntry } from '@bright-cellar/device-link';
import { counted } from '../counted.js';
import { sizeOf, type Piece, type SentItem } from './crossing.js';
import { whenOpen } from './when-open.js';
import type { SendingJob } from './jobs.js';
import { digestOf, Writing } from './writing.js';

/** Something that goes onto a device piece by piece. */
export interface Sender<Item extends SentItem = SentItem> {
  readonly tally: CrossingTally;
  pieces(): AsyncIterable<Piece<Item>>;
  contents(piece: Piece<Item>): AsyncIterable<Uint8Array>;
  /** Counts a piece that arrived. @param bytes of it */
  count(piece: Piece, bytes: number): void;
}

/** What was sent, to be looked for again. */
interface Sent {
  /** Without what it holds: only what is counted of it is kept. */
  piece: Piece;
  path: string;
  class: DataClass;
  bytes: number;
  digest: string;
}

/** Sends all of it; what cannot be read stays, and is counted. */
export async function sendAll<Item extends SentItem>(
  job: SendingJob,
  sender: Sender<Item>,
): Promise<Sent[]> {
  const { progress, input, signal } = job;
  await progress.phase('sending', input.expected);
  const writing = await Writing.begin(job);
  const sent: Sent[] = [];
  try {
    for await (const piece of sender.pieces()) {
      signal.throwIfAborted();
      const entry = entryOf(piece);
      const contents = () => counted(sender.contents(piece), (n) => progress.add(n, 0));
      try {
        const digest = await writing.write(entry, contents);
        progress.add(0, 1);
        sent.push({
          ...{ piece: emptied(piece), path: entry.path, class: entry.class },
          ...{ bytes: sizeOf(piece), digest },
        });
      } catch (error) {
        if (problemOf(error).code !== 'archive-damaged') throw error;
        sender.tally.stays(entry.class, 'damaged');
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

/** Reads every piece back from the device: only what is there as it was sent has arrived. */
export async function readBack(
  job: SendingJob,
  sender: Pick<Sender, 'tally' | 'count'>,
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
  const readBack = readAhead(link, device, sent, ({ path }) => onDevice.get(path) ?? null, signal);
  for await (const { one, contents } of readBack) {
    signal.throwIfAborted();
    const { piece, path, class: dataClass, bytes, digest } = one;
    const entry = onDevice.get(path);
    const isThere = entry !== undefined && (await digestOn(job, entry, contents)) === digest;
    if (isThere) sender.count(piece, bytes);
    else sender.tally.stays(dataClass, 'not-arrived');
    progress.add(bytes, 1);
  }
  await progress.needs(null);
}

/** The digest of what the device has. */
function digestOn(job: SendingJob, entry: Entry, contents: Buffer | null): Promise<string> {
  const { link, signal } = job;
  if (contents || entry.kind === 'folder') return digestOf(contents ? [contents] : []);
  return whenOpen(job, entry, () => digestOf(link.read(job.deviceId, entry, signal)));
}

/** What was sent and is not there as it was sent. */
export const failedOf = (report: CrossingReport) =>
  report.flatMap((one) =>
    one.stays
      .filter(({ why }) => why === 'not-arrived')
      .map(({ count }) => ({
        class: one.class,
        reason: 'it did not arrive as it was sent',
        count,
      })),
  );
