import {
  dataClasses,
  formatBytes,
  formatCount,
  losesSomething,
  staysBehind,
  type CrossingReport,
} from '@bright-cellar/core';
import { Figure } from '../design/figures.js';
import { Note } from '../design/note.js';
import { Outcome, type EndedPanel } from './ended.js';

const sum = (report: CrossingReport, of: (one: CrossingReport[number]) => number): string =>
  formatCount(report.reduce((all, one) => all + of(one), 0));

/** Before anything is sent. */
export const EndedForesight: EndedPanel<'foresee'> = ({ operation: { result } }) => (
  <Outcome
    durationMs={result.durationMs}
    figures={
      <>
        <Figure value={sum(result.report, ({ whole }) => whole)}>Unchanged</Figure>
        <Figure value={sum(result.report, ({ changed }) => changed)}>Changed</Figure>
        <Figure value={sum(result.report, ({ present }) => present)}>There already</Figure>
        <Figure value={sum(result.report, staysBehind)}>Stay behind</Figure>
        <Figure value={formatBytes(result.bytes)}>To send</Figure>
      </>
    }
  />
);

/** After all of it was read back from the device. */
export const EndedCrossing: EndedPanel<'cross'> = ({ operation: { result } }) => {
  const { report, otherwise } = result;
  return (
    <Outcome
      durationMs={result.durationMs}
      figures={
        <>
          <Figure value={sum(report, ({ whole }) => whole)}>Arrived unchanged</Figure>
          <Figure value={sum(report, ({ changed }) => changed)}>Arrived changed</Figure>
          <Figure value={sum(report, ({ present }) => present)}>Were there</Figure>
          <Figure value={sum(report, staysBehind)}>Stayed behind</Figure>
          <Figure value={formatBytes(result.bytes)}>Sent</Figure>
        </>
      }
    >
      <Note>
        Every file was read back from the device and compared with what was sent.{' '}
        {otherwise.length === 0
          ? losesSomething(report)
            ? 'It came as the loss report said.'
            : 'Nothing was lost.'
          : `Not as the loss report said: ${otherwise.map((id) => dataClasses[id].toLowerCase()).join(', ')}.`}
      </Note>
    </Outcome>
  );
};
