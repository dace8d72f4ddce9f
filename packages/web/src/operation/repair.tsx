import { countOf, formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { DigestFact, Outcome, type EndedPanel } from './ended.js';

export const EndedRepair: EndedPanel<'repair'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.repaired)}>Files replaced</Figure>
        <Figure value={formatBytes(result.storedBytes)}>Read back</Figure>
      </>
    }
  >
    <p>
      The copy on <span className="font-semibold">{result.rackName}</span> is whole:{' '}
      {countOf(result.repaired, 'file')} came from {result.fromName}, and all of it was read back.
    </p>
    <p>
      What a proof with its password found stands until such a proof finds it gone: prove it once
      more.
    </p>
    <DigestFact digest={result.digest} />
  </Outcome>
);
