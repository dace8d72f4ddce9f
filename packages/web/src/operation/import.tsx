import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, NewInArchive, Outcome, type EndedPanel } from './ended.js';

export const EndedImport: EndedPanel<'import'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.items)}>Items taken in</Figure>
        <Figure value={formatBytes(result.bytes)}>Size on device</Figure>
        <NewInArchive {...result} />
        <Figure value={formatBytes(result.storedBytes)}>Stored for it</Figure>
      </>
    }
  >
    <DigestFact digest={result.digest} />
  </Outcome>
);
