import type { OperationOf } from '@bright-cellar/contract';
import {
  countOf,
  formatBytes,
  formatDuration,
  type OperationKind,
  type OperationResult,
} from '@bright-cellar/core';
import type { ComponentType, ReactNode } from 'react';
import { Facts, Figure } from '../design/figures.js';
import { Digest } from '../design/serial.js';

/** An operation that ended well. */
export type Done<Kind extends OperationKind> = OperationOf<Kind> & {
  result: OperationResult<Kind>;
};

/** How one kind of work shows that it ended well. */
export type EndedPanel<Kind extends OperationKind> = ComponentType<{ operation: Done<Kind> }>;

/** Its figures, its duration last; below them what else there is to say. */
export function Outcome({
  figures,
  durationMs,
  children,
}: {
  figures: ReactNode;
  durationMs: number;
  children?: ReactNode;
}) {
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        {figures}
        <Figure value={formatDuration(durationMs)}>Duration</Figure>
      </div>
      {children}
    </div>
  );
}

/** What came into the archive that it did not have. */
export function NewInArchive({ newBytes, newItems }: { newBytes: number; newItems: number }) {
  return (
    <Figure
      value={formatBytes(newBytes)}
      {...(newBytes > 0 ? { of: `in ${countOf(newItems, 'item')}` } : {})}
    >
      New in the archive
    </Figure>
  );
}

export function DigestFact({ digest }: { digest: string }) {
  return <Facts facts={[['Digest', <Digest key="d">{digest}</Digest>]]} />;
}
