import {
  failedCount,
  formatBytes,
  formatBytesRange,
  formatCount,
  formatDurationRange,
} from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, NewInArchive, Outcome, type EndedPanel } from './ended.js';
import { FailedItems } from './failed-items.js';
import { RetryFailed } from './retry-failed.js';

export const EndedBackup: EndedPanel<'backup'> = ({ operation }) => {
  const { result, estimate } = operation;
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={formatCount(result.items)}>Items taken</Figure>
          <Figure value={formatCount(failedCount(result.failed))}>Failed</Figure>
          <Figure value={formatBytes(result.bytes)}>Size on device</Figure>
          <NewInArchive {...result} />
          <Figure value={formatBytes(result.storedBytes)}>Stored for it</Figure>
        </>
      }
    >
      {result.failed.length > 0 && (
        <FailedItems operationId={operation.id} failed={result.failed} />
      )}
      {operation.retryable > 0 && <RetryFailed operation={operation} />}
      {estimate && (
        <p className="text-small text-soft">
          Expected were {formatBytesRange(estimate.stored.low, estimate.stored.high)} on the rack in{' '}
          {formatDurationRange(estimate.ms.low, estimate.ms.high)}.
        </p>
      )}
      <DigestFact digest={result.digest} />
    </Outcome>
  );
};
