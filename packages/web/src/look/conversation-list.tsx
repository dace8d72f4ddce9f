import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, type KeyboardEvent } from 'react';
import { day } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { lookQueries } from './queries.js';

/** Conversations by whom they are with, the newest first. */
export function ConversationList({
  id,
  isAll,
  chosen,
  onChoose,
}: {
  id: string;
  /** All of the backup was read: before that nobody knows which there are. */
  isAll: boolean;
  chosen: number | null;
  onChoose: (conversation: number) => void;
}) {
  const [text, setText] = useState('');
  const asked = useDeferredValue(text.trim());
  const found = useQuery({
    ...lookQueries.conversations(id, asked),
    enabled: isAll,
    placeholderData: keepPreviousData,
  }).data;
  if (!found) return <p className="text-soft">Conversations are there once all was read.</p>;
  return (
    <section className="flex flex-col gap-2" aria-label="Conversations">
      <TextField
        label="With whom"
        type="search"
        autoComplete="off"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      {found.total === 0 && (
        <p className="text-soft">
          {asked === '' ? 'There are none in this backup.' : 'With nobody of that name.'}
        </p>
      )}
      <ul className="max-h-[58vh] overflow-y-auto border-t border-line">
        {found.rows.map(({ id: conversation, people, isGroup, sources, messages, to }) => (
          <li key={conversation} className="border-b border-line">
            <button
              type="button"
              aria-pressed={chosen === conversation}
              onKeyDown={walk}
              onClick={() => onChoose(conversation)}
              className="flex w-full flex-col px-2 py-1.5 text-left hover:bg-surface aria-pressed:border-l-4 aria-pressed:border-ink aria-pressed:bg-surface"
            >
              <span className="font-semibold">{namesOf(people)}</span>
              <span className="text-small text-soft">
                {isGroup ? 'Group, ' : ''}
                {sources.join(' and ')}
              </span>
              <span className="text-small text-soft">
                {messages.toLocaleString('en')} until {day(to)}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {found.total > found.rows.length && (
        <p className="text-small text-soft">
          The newest {found.rows.length} of {found.total.toLocaleString('en')}.
        </p>
      )}
    </section>
  );
}

/** Who is in it, in words; one with nobody is a note to oneself. */
export const namesOf = (people: readonly string[]): string =>
  people.length === 0 ? 'Nobody else' : people.join(', ');

function walk(event: KeyboardEvent<HTMLButtonElement>): void {
  const item = event.currentTarget.parentElement;
  const next =
    event.key === 'ArrowDown'
      ? item?.nextElementSibling
      : event.key === 'ArrowUp'
        ? item?.previousElementSibling
        : null;
  const button = next?.querySelector('button');
  if (!button) return;
  event.preventDefault();
  button.focus();
}
