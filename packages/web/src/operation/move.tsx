import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedMove: EndedPanel<'move'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={formatCount(result.moved)}>Moves made</Figure>
        <Figure value={formatBytes(result.bytes)}>Moved, each read back</Figure>
        {result.left > 0 && <Figure value={formatCount(result.left)}>Left where they were</Figure>}
      </>
    }
  />
);
