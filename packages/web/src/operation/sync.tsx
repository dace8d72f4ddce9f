import { formatCount, type MergedKindTold } from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Outcome, type EndedPanel } from './ended.js';

export const EndedSync: EndedPanel<'sync'> = ({ operation: { result } }) => {
  const { kinds, wrote } = result;
  const sum = (of: (told: MergedKindTold) => number) =>
    formatCount(kinds.reduce((all, told) => all + of(told), 0));
  const on = (side: 'device' | 'partner') =>
    sum((told) => told[side].add + told[side].change + told[side].remove);
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={sum(({ same }) => same)}>Already the same</Figure>
          <Figure value={on('device')}>{wrote ? 'Written on the device' : 'To the device'}</Figure>
          <Figure value={on('partner')}>
            {wrote ? 'Written on the other side' : 'To the other side'}
          </Figure>
          <Figure value={sum(({ open }) => open)}>Not decided</Figure>
        </>
      }
    />
  );
};
