import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { AnyShelfPart, LookHit, ShelfId } from '@bright-cellar/contract';
import { countOf } from '@bright-cellar/core';
import { dateTime } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { Section } from '../design/page.js';
import { namesOf } from './conversation-list.js';
import { lookQueries } from './queries.js';
import { shelfViews } from './shelves/index.js';

/** All that has what was looked for, by what it is: each with the way to where it stands. */
export function FoundEverywhere({
  id,
  text,
  onMessage,
  onShelf,
}: {
  id: string;
  text: string;
  onMessage: (conversation: number, index: number) => void;
  onShelf: (shelf: ShelfId, text: string) => void;
}) {
  const found = useQuery({
    ...lookQueries.search(id, text),
    placeholderData: keepPreviousData,
  }).data;
  if (!found) return <Loading what="Looking for it" />;
  const { said, shelves } = found;
  return (
    <div className="flex flex-col gap-4">
      {said.total + shelves.length === 0 && (
        <p className="text-soft">Nothing in it has all of that.</p>
      )}
      {shelves.map((part) => (
        <FoundOnShelf key={part.shelf} part={part} onOpen={() => onShelf(part.shelf, text)} />
      ))}
      {said.total > 0 && <FoundMessages said={said} onOpen={onMessage} />}
    </div>
  );
}

function FoundOnShelf({ part, onOpen }: { part: AnyShelfPart; onOpen: () => void }) {
  const { name } = shelfViews[part.shelf];
  return (
    <Section
      title={name}
      aside={
        <button type="button" onClick={onOpen} className="text-small underline">
          {part.total > part.rows.length
            ? `Read all ${part.total.toLocaleString('en')}`
            : `Read under ${name}`}
        </button>
      }
    >
      <ul className="border-t border-line" aria-label={`${name} found`}>
        {part.rows.map((row, n) => {
          const { head, rest } = wordsOf(row);
          return (
            <li key={n} className="truncate border-b border-line px-2 py-1">
              {head} <span className="text-small text-soft">{rest}</span>
            </li>
          );
        })}
      </ul>
    </Section>
  );
}

/** A row of any shelf in a line: what it is called, and when or where. */
function wordsOf(row: AnyShelfPart['rows'][number]): { head: string; rest: string } {
  const head =
    ('title' in row && row.title) ||
    ('name' in row && row.name) ||
    ('path' in row && row.path) ||
    ('what' in row && row.what) ||
    ('page' in row && row.page) ||
    ('time' in row && row.time) ||
    'Without a name';
  const rest = [
    'at' in row ? dateTime(row.at) : '',
    'numbers' in row ? row.numbers.join(', ') : '',
    'number' in row ? row.number : '',
    'place' in row && typeof row.place === 'string' ? row.place : '',
    'name' in row && 'page' in row ? row.page : '',
    'label' in row ? row.label : '',
  ];
  return { head, rest: rest.filter(Boolean).join(', ') };
}

/** Messages that have it, the newest first. */
function FoundMessages({
  said: { rows, total },
  onOpen,
}: {
  said: { rows: LookHit[]; total: number };
  onOpen: (conversation: number, index: number) => void;
}) {
  return (
    <Section title={countOf(total, 'message')}>
      <ol className="border-t border-line" aria-label="Messages found">
        {rows.map(({ conversation, index, people, at, from, text: words }) => (
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
      {total > rows.length && (
        <p className="text-small text-soft">
          The newest {rows.length} of them. One word more finds fewer.
        </p>
      )}
    </Section>
  );
}
