import type { FileTold } from '@bright-cellar/contract';
import { countOf, extractFormatWords, formatCount, leftOutReasons } from '@bright-cellar/core';
import { dateTime } from '../design/dates.js';
import { Figure } from '../design/figures.js';
import { Section } from '../design/page.js';

/** What would come back of a file: how much, from when to when, its first lines, and what stays out. */
export function FilePreview({ told }: { told: FileTold }) {
  const { messages, calls, conversations, first, leftOut, twice, without, broken, pictures } = told;
  const aside = [
    ...(twice > 0 ? [`${countOf(twice, 'line')} said what another one said: once is enough.`] : []),
    ...(without > 0
      ? [`${countOf(without, 'line')} came with a picture or a file, which is not here.`]
      : []),
    ...(pictures > 0
      ? [
          `${pictures.toLocaleString('en')} ${pictures === 1 ? 'picture or file goes' : 'pictures or files go'} back with them.`,
        ]
      : []),
    ...(broken > 0 ? [`${countOf(broken, 'line')} could not be read at all.`] : []),
  ];
  return (
    <>
      <div className="flex flex-wrap gap-x-8 gap-y-2">
        <Figure value={extractFormatWords[told.format]}>Format</Figure>
        {calls > 0 ? (
          <Figure value={formatCount(calls)}>Calls</Figure>
        ) : (
          <>
            <Figure value={formatCount(messages)}>Messages</Figure>
            <Figure value={formatCount(conversations)}>Conversations</Figure>
          </>
        )}
        <Figure value={formatCount(leftOut.count)}>Lines left out</Figure>
        {told.since !== null && told.until !== null && (
          <Figure value={dateTime(told.since)} of={`until ${dateTime(told.until)}`}>
            From
          </Figure>
        )}
      </div>
      {aside.length > 0 && (
        <ul className="text-small text-soft">
          {aside.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      )}
      <Section title="The first of them, as they would come back">
        <table className="w-full border-collapse text-small">
          <thead>
            <tr className="text-left">
              <th className="py-1 pr-4 font-semibold">When</th>
              <th className="pr-4 font-semibold">Who</th>
              <th className="pr-4 font-semibold">Conversation</th>
              <th className="font-semibold">What</th>
            </tr>
          </thead>
          <tbody>
            {first.map(({ at, from, with: others, text }) => (
              <tr key={`${at} ${from} ${text}`} className="border-t border-line align-top *:py-1">
                <td className="pr-4 whitespace-nowrap">{dateTime(at)}</td>
                <td className="pr-4 whitespace-nowrap">{from === 'me' ? 'The owner' : from}</td>
                <td className="pr-4">{others.join(', ')}</td>
                <td className="break-words">{text}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {first.length === 0 && <p className="text-soft">None: see which column is what.</p>}
      </Section>
      {leftOut.count > 0 && (
        <Section title="Lines that stay out">
          <ul className="text-small">
            {leftOut.first.map(({ line, why }) => (
              <li key={line} className="border-t border-line py-1">
                Line {formatCount(line)}: {leftOutReasons[why]}
              </li>
            ))}
          </ul>
          {leftOut.count > leftOut.first.length && (
            <p className="text-small text-soft">
              And {formatCount(leftOut.count - leftOut.first.length)} more.
            </p>
          )}
        </Section>
      )}
    </>
  );
}
