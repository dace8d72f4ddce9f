import type { DataClass, FailedItems, OperationInput } from '@bright-cellar/core';
import { LinkError, type Entry } from '@bright-cellar/device-link';
import type { Job } from '../../engine/job.js';

/** With the folder that its files go into. */
export type ExtractJob = Job<'extract'> & { folder: string };
type ExtractInput = OperationInput<'extract'>;
export type RecordsWanted = Extract<ExtractInput['what'], { kind: 'records' }>;
export type ApplicationsWanted = Extract<ExtractInput['what'], { kind: 'applications' }>;

export interface Taken {
  items: number;
  bytes: number;
  added: number;
  failed: FailedItems[];
  /** Names of files, for whoever looks for them. */
  wrote: string;
}

/** What was not taken, by class and reason. */
export class Failures {
  readonly #found = new Map<string, FailedItems>();

  add(dataClass: DataClass, reason: string): void {
    const key = `${dataClass} ${reason}`;
    const count = (this.#found.get(key)?.count ?? 0) + 1;
    this.#found.set(key, { class: dataClass, reason, count });
  }

  all(): FailedItems[] {
    return [...this.#found.values()];
  }
}

export async function listing(
  { link, deviceId, signal }: ExtractJob,
  dataClass: DataClass,
): Promise<Entry[]> {
  const entries: Entry[] = [];
  for await (const entry of link.entries(deviceId, dataClass, signal)) entries.push(entry);
  return entries;
}

export const amountOf = (entries: readonly Entry[]) => ({
  items: entries.length,
  bytes: entries.reduce((sum, e) => sum + e.bytes, 0),
});

/** An item's contents, counted as they come. @throws LinkError */
export async function* piecesOf(
  { link, deviceId, signal, progress }: ExtractJob,
  entry: Entry,
): AsyncGenerator<Uint8Array> {
  for await (const piece of link.read(deviceId, entry, signal)) {
    progress.add(piece.length, 0);
    yield piece;
  }
  progress.add(0, 1);
}

/** Why the device did not give an item out, where the rest can still be taken; null for everything else. */
export function whyNotGiven(error: unknown): string | null {
  if (!(error instanceof LinkError)) return null;
  if (error.code === 'sealed') return 'its store is sealed';
  return error.code === 'read-error' || error.code === 'changed'
    ? 'the device could not read it'
    : null;
}
