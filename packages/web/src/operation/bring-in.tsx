import { countOf, formatBytes, formatCount } from '@bright-cellar/core';
import { Link } from 'react-router';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedBringIn: EndedPanel<'bringIn'> = ({ operation: { archiveId, result } }) => {
  const isWhole = result.damagedFiles + result.damagedItems + result.lostBackups === 0;
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={formatBytes(result.storedBytes)}>Read back</Figure>
          {result.backups > 0 && <Figure value={formatCount(result.backups)}>Backups</Figure>}
        </>
      }
    >
      <p>
        {result.isCopy ? 'Another copy of what came with ticket ' : 'It came with ticket '}
        <span className="font-semibold">{result.ticketNumber}</span>.{' '}
        <Link to={`/archives/${archiveId ?? ''}`} className="underline">
          Open the archive
        </Link>
      </p>
      <p>
        {isWhole
          ? 'All of it is as it was written.'
          : `It is damaged: ${countOf(result.damagedFiles, 'file')} of it, ${countOf(result.damagedItems, 'item')}. ${lost(result.lostBackups)}What is whole in it can be restored.`}
      </p>
    </Outcome>
  );
};

const lost = (backups: number) =>
  backups === 0 ? '' : `What ${countOf(backups, 'backup')} held cannot be said any more. `;
