import { formatBytes, formatCount } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedRestore: EndedPanel<'restore'> = ({ operation: { result } }) => {
  const { same, different, missing, extra } = result.compared;
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={formatCount(same)}>Same as the backup</Figure>
          <Figure value={formatCount(different)}>Different</Figure>
          <Figure value={formatCount(missing)}>Missing</Figure>
          <Figure value={formatCount(extra)}>Not from the backup</Figure>
          <Figure value={formatBytes(result.bytes)}>Restored</Figure>
        </>
      }
    />
  );
};
