import { operationTakenPath } from '@bright-cellar/contract';
import { failedCount, formatBytes, formatCount } from '@bright-cellar/core';
import { buttonShape } from '../design/button.js';
import { Figure } from '../design/figures.js';
import { Digest } from '../design/serial.js';
import { Outcome, type EndedPanel } from './ended.js';
import { FailedItems } from './failed-items.js';

export const EndedExtract: EndedPanel<'extract'> = ({ operation: { id, result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.items)}>Taken</Figure>
        <Figure value={formatCount(result.newItems)}>New in the file</Figure>
        <Figure value={formatCount(failedCount(result.failed))}>Failed</Figure>
        <Figure value={formatBytes(result.bytes)}>Size</Figure>
      </>
    }
  >
    {result.failed.length > 0 && <FailedItems operationId={id} failed={result.failed} />}
    {result.wrote && (
      <div className="flex flex-wrap items-center gap-3">
        <p>
          Written as <Digest>{result.wrote}</Digest> into the rack’s folder of extracts.
        </p>
        <a href={operationTakenPath(id)} download className={buttonShape('plain')}>
          Fetch it to this computer
        </a>
      </div>
    )}
  </Outcome>
);
