import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { countOf } from '@bright-cellar/core';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Section } from '../design/page.js';
import { namesOf } from './conversation-list.js';
import { lookQueries } from './queries.js';

/** Messages that have what was looked for, each with the way to where it was said. */
export function FoundMessages({
  id,
  text,
  onOpen,
}: {
  id: string;
  text: string;
  onOpen: (conversation: number, index: number) => void;
}) {
  const found = useQuery({
    ...lookQueries.search(id, text),
    placeholderData: keepPreviousData,
  }).data;
  if (!found) return <Loading what="Looking for it" />;
  return (
    <Section title={countOf(found.total, 'message')}>
      {found.total === 0 && <p className="text-soft">Nothing that was said has all of that.</p>}
      <ol className="border-t border-line" aria-label="Messages found">
        {found.rows.map(({ conversation, index, people, at, from, text: words }) => (
          <li key={`${conversation} ${index}`} className="border-b border-line">
            <button
              type="button"
              onClick={() => onOpen(conversation, index)}
              className="grid w-full grid-cols-[10rem_minmax(0,1fr)] gap-x-3 px-2 py-1.5 text-left hover:bg-surface"
            >
              <span className="text-small text-soft">
                {dateTime(at)}
                <br />
                {from || 'The owner'}
              </span>
              <span className="min-w-0">
                <span className="line-clamp-2 break-words">{words}</span>
                <span className="text-small text-soft">with {namesOf(people)}</span>
              </span>
            </button>
          </li>
        ))}
      </ol>
      {found.total > found.rows.length && (
        <p className="text-small text-soft">
          The newest {found.rows.length} of them. One word more finds fewer.
        </p>
      )}
    </Section>
  );
}
