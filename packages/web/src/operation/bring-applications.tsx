import { formatBytes, formatCount, staysBehind } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedBringApplications: EndedPanel<'bringApplications'> = ({
  operation: { result },
}) => {
  const { report, applications } = result;
  const sum = (of: (line: (typeof report)[number]) => number) =>
    formatCount(report.reduce((all, line) => all + of(line), 0));
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={formatCount(applications)}>Applications, whole</Figure>
          <Figure value={formatCount(result.items)}>Files brought</Figure>
          <Figure value={sum(({ present }) => present)}>There already</Figure>
          <Figure value={sum(staysBehind)}>Left out</Figure>
          <Figure value={formatBytes(result.bytes)}>Written</Figure>
        </>
      }
    />
  );
};
