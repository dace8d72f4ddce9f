import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, Outcome, type EndedPanel } from './ended.js';

export const EndedPruning: EndedPanel<'prune'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.gone)}>Backups taken out</Figure>
        <Figure value={formatBytes(result.freedBytes)}>Freed on {result.rackName}</Figure>
        <Figure value={formatBytes(result.storedBytes)}>Size of the copy now</Figure>
      </>
    }
  >
    <DigestFact digest={result.digest} />
  </Outcome>
);
