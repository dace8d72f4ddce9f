import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, Outcome, type EndedPanel } from './ended.js';

export const EndedProof: EndedPanel<'prove'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.items)}>Items in it</Figure>
        <Figure value={formatBytes(result.bytes)}>Size on device</Figure>
        <Figure value={formatBytes(result.storedBytes)}>Stored on the rack</Figure>
      </>
    }
  >
    <DigestFact digest={result.digest} />
  </Outcome>
);
