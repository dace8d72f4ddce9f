import { formatBytes } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, Outcome, type EndedPanel } from './ended.js';

export const EndedCheck: EndedPanel<'check'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={<Figure value={formatBytes(result.storedBytes)}>Read back</Figure>}
  >
    <p>
      The copy on <span className="font-semibold">{result.rackName}</span> is as it was written,
      byte by byte.
    </p>
    <DigestFact digest={result.digest} />
  </Outcome>
);
