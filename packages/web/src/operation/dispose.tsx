import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedDisposal: EndedPanel<'dispose'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.gone)}>Copies gone</Figure>
        <Figure value={formatBytes(result.bytes)}>They took</Figure>
        {result.owed > 0 && (
          <Figure value={formatCount(result.owed)} of="on racks that are away">
            Owed
          </Figure>
        )}
      </>
    }
  />
);
