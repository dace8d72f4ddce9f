import { formatBytes } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, Outcome, type EndedPanel } from './ended.js';

export const EndedCopy: EndedPanel<'copy'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatBytes(result.sentBytes)}>Sent and read back</Figure>
        <Figure value={formatBytes(result.storedBytes)}>Size of the copy</Figure>
      </>
    }
  >
    <p>
      It lies on <span className="font-semibold">{result.rackName}</span>, and every byte of it was
      read back from there.
    </p>
    <DigestFact digest={result.digest} />
  </Outcome>
);
