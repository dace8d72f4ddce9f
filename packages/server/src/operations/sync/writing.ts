import { createHash } from 'node:crypto';
import type { SyncedKind } from '@bright-cellar/core';
import type { MergedRecords, SideName } from '@bright-cellar/core/merge';
import type { AnyLine } from '@bright-cellar/core/merge';
import type { Touched } from './remembered.js';

export type RecordOf = MergedRecords[SyncedKind];
/** What was written on a side, by the key of its line: what it is called and says there now; null where it was removed. */
export type Written = Map<string, { id: string; record: RecordOf } | null>;

/** What is told while a side is written. */
export interface Telling {
  /** Something could not be written, and why. */
  failed(kind: SyncedKind, reason: string, lines: number): void;
  /** A file was written, as it was read back. */
  touched(touched: Touched): void;
}

export const digestOf = (contents: Uint8Array): string =>
  createHash('sha256').update(contents).digest('hex');

/** What is there once a line's step on a side is done; null where nothing is. */
export const recordAfter = ({ steps }: AnyLine, side: SideName): RecordOf | null => {
  const step = steps[side];
  return step.do === 'add' || step.do === 'change' ? step.record : null;
};
