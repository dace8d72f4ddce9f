import { formatBytes, formatCount, goesOver } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedBringBack: EndedPanel<'bringBack'> = ({ operation: { result } }) => {
  const { report, wrote, leftOut } = result;
  const sum = (of: (line: (typeof report)[number]) => number) =>
    formatCount(report.reduce((all, line) => all + of(line), 0));
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={sum(goesOver)}>{wrote ? 'Brought back' : 'Would be brought back'}</Figure>
          <Figure value={sum(({ present }) => present)}>There already</Figure>
          <Figure value={sum(({ changed }) => changed)}>Not quite as in the file</Figure>
          <Figure value={formatCount(leftOut)}>Lines left out</Figure>
          <Figure value={formatBytes(result.bytes)}>Written</Figure>
        </>
      }
    />
  );
};
