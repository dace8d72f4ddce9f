import { useQuery } from '@tanstack/react-query';
import { dataClasses, formatBytes, type CrossingReport } from '@bright-cellar/core';
import { Fragment } from 'react';
import { ButtonLink } from '../design/button.js';
import { Note } from '../design/note.js';
import { lookQueries } from '../look/queries.js';
import { crossingTitle, Fate, Losses } from './fate.js';

/** What somebody has in hand in a look-in shall go over; and, once it was found out, what becomes of it. */
export function HandChoice({
  lookIn,
  report,
  over,
}: {
  lookIn: string;
  /** Null while nobody knows. */
  report: CrossingReport | null;
  over: boolean;
}) {
  const basket = useQuery({ ...lookQueries.basket(lookIn), enabled: !over });
  const picks = basket.data?.picks ?? [];
  return (
    <section aria-label="What crosses">
      <h2 className="pb-2 text-center text-large">{crossingTitle(report, over)}</h2>
      {!over && basket.error && (
        <Note>This look-in is over, and nobody knows any more what was in hand.</Note>
      )}
      {!over && picks.length > 0 && (
        <>
          <h3 className="font-semibold">In hand</h3>
          <ul aria-label="In hand" className="max-h-[30vh] overflow-y-auto text-small">
            {picks.map(({ key, words, count }) => (
              <li key={key} className="flex gap-2 border-t border-line py-1">
                <span className="min-w-0 flex-1 break-words">{words}</span>
                {count !== 1 && <span className="text-soft">{count.toLocaleString('en')}</span>}
              </li>
            ))}
          </ul>
          {report === null && (
            <div className="pt-2">
              <ButtonLink to={`/look/${lookIn}`}>Back to the reading desk</ButtonLink>
            </div>
          )}
        </>
      )}
      {report && (
        <table className="mt-4 w-full border-collapse text-small">
          <thead className="sr-only">
            <tr>
              <th>Class</th>
              <th>Size</th>
              <th>What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            {report.map((line) => (
              <Fragment key={line.class}>
                <tr className="border-t border-line">
                  <th className="py-1 pr-3 text-left font-normal whitespace-nowrap">
                    {dataClasses[line.class]}
                  </th>
                  <td className="text-right whitespace-nowrap text-soft">
                    {formatBytes(line.bytes)}
                  </td>
                  <td className="w-full pl-4">
                    <Fate line={line} />
                  </td>
                </tr>
                <Losses line={line} columns={3} />
              </Fragment>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
