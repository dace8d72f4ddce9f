import { useQueries, useQuery } from '@tanstack/react-query';
import { type LookMessage, type LookMessages } from '@bright-cellar/contract';
import { countOf, formatDuration } from '@bright-cellar/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { day, time } from '../design/dates.js';
import { Loading } from '../design/loading.js';
import { TakeInHand } from './basket.js';
import { LookPicture, SaveThis } from './bytes.js';
import { namesOf } from './conversation-list.js';
import { lookQueries } from './queries.js';
import { Months, monthName } from './shelves/months.js';
import { Player } from './shelves/player.js';

/** As many as the server tells at once. */
const PAGE = 200;
const ROW_PX = 52;
/** A pause in talking that is worth a word. */
const PAUSE_MS = 3 * 3_600_000;

export interface ReadAt {
  conversation: number;
  /** The message to begin with; null for the newest. */
  index: number | null;
}

/** What was said, in one column in the order of time; who, when and where in its margin. Only what is in sight exists. */
export function ReadingColumn({ id, at }: { id: string; at: ReadAt }) {
  const first = useQuery(lookQueries.messages(id, at.conversation, 0)).data;
  if (!first) return <Loading what="Opening the conversation" />;
  return <Column id={id} at={at} first={first} />;
}

function Column({ id, at, first }: { id: string; at: ReadAt; first: LookMessages }) {
  const { conversation, months } = first;
  const [month, setMonth] = useState<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  // The library's hooks keep their own memory; the compiler's rules do not know them.
  const virtual = useVirtualizer({
    count: conversation.messages,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 15,
  });
  const begin = at.index ?? conversation.messages - 1;
  useEffect(() => {
    virtual.scrollToIndex(begin, { align: at.index === null ? 'end' : 'center' });
    // Only where one begins: from there on the reader scrolls.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [begin]);
  const items = virtual.getVirtualItems();
  const pages = new Set(items.map(({ index }) => Math.floor(index / PAGE)));
  const told = useQueries({
    queries: [...pages].map((page) => lookQueries.messages(id, at.conversation, page * PAGE)),
  });
  const rows = new Map(
    told.flatMap(({ data }) => (data?.rows ?? []).map((row) => [row.index, row])),
  );
  return (
    <section className="flex flex-col gap-2" aria-label={`With ${namesOf(conversation.people)}`}>
      <div className="flex flex-wrap items-end justify-between gap-x-4">
        <h2 className="text-large">{namesOf(conversation.people)}</h2>
        <p className="text-small text-soft">
          {countOf(conversation.messages, 'message')}, {day(conversation.from)} to{' '}
          {day(conversation.to)}
          {conversation.sources.length > 1 && `, joined from ${conversation.sources.join(' and ')}`}
        </p>
      </div>
      <Months
        months={months}
        words={(count) => countOf(count, 'message')}
        onGo={(index) => {
          setMonth(months.find(({ first: row }) => row === index)?.month ?? null);
          virtual.scrollToIndex(index, { align: 'start' });
        }}
      />
      <div className="flex flex-wrap gap-2">
        <TakeInHand
          id={id}
          pick={{ of: 'conversation', conversation: at.conversation, month: null }}
        >
          Take it in hand
        </TakeInHand>
        {month !== null && (
          <TakeInHand id={id} pick={{ of: 'conversation', conversation: at.conversation, month }}>
            {`Only ${monthName(month)}`}
          </TakeInHand>
        )}
        {!conversation.isGroup && (
          <TakeInHand id={id} pick={{ of: 'person', conversation: at.conversation }}>
            {`All with ${namesOf(conversation.people)}`}
          </TakeInHand>
        )}
      </div>
      <div
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="What was said"
        className="h-[62vh] overflow-y-auto border border-line bg-surface"
      >
        <div className="relative w-full" style={{ height: virtual.getTotalSize() }}>
          {items.map(({ index, start, key }) => (
            <div
              key={key}
              ref={virtual.measureElement}
              data-index={index}
              className="absolute top-0 left-0 w-full"
              style={{ transform: `translateY(${start}px)` }}
            >
              <Said
                id={id}
                said={rows.get(index)}
                before={rows.get(index - 1)}
                isSought={index === at.index}
                showsSource={conversation.sources.length > 1}
              />
            </div>
          ))}
        </div>
      </div>
    </section>
  );
}

function Said({
  id,
  said,
  before,
  isSought,
  showsSource,
}: {
  id: string;
  said: LookMessage | undefined;
  before: LookMessage | undefined;
  isSought: boolean;
  showsSource: boolean;
}) {
  if (!said) return <p className="h-13 px-4 text-soft">…</p>;
  const isNewDay = day(said.at) !== (before && day(before.at));
  const pause = before ? Date.parse(said.at) - Date.parse(before.at) : 0;
  const isSame = !isNewDay && before?.from === said.from && before.isOwn === said.isOwn;
  return (
    <article aria-current={isSought} className="grid grid-cols-[9.5rem_minmax(0,1fr)]">
      <p className="border-r-2 border-line px-3 py-1.5 text-right text-small text-soft">
        {isNewDay && <span className="block pt-2 font-semibold text-ink">{day(said.at)}</span>}
        {!isNewDay && pause > PAUSE_MS && (
          <span className="block">after {formatDuration(pause)}</span>
        )}
        {!isSame && (
          <span className={clsx('block', said.isOwn ? 'text-ink' : 'font-semibold text-ink')}>
            {said.isOwn ? 'The owner' : said.from}
          </span>
        )}
        {time(said.at)}
        {showsSource && `, ${said.source}`}
      </p>
      <div
        className={clsx('px-4 py-1.5', isSought && 'border-l-8 border-ink', isNewDay && 'pt-3.5')}
      >
        <p className={clsx('break-words whitespace-pre-wrap', said.isOwn && 'text-soft')}>
          {said.text}
        </p>
        {said.with && <CameWith id={id} {...said.with} />}
      </div>
    </article>
  );
}

/** What came with what was said: a picture is there, and large when it is pressed; a video or a sound is played in its place. */
function CameWith({
  id,
  item,
  name,
  isPicture,
  plays,
}: NonNullable<LookMessage['with']> & { id: string }) {
  const [isOpen, setOpen] = useState(false);
  if (item === null)
    return (
      <p className="font-mono text-small text-soft">with it: {name}, which is not in the backup</p>
    );
  const isShown = isPicture || plays !== null;
  return (
    <span className="mt-1 flex flex-col items-start gap-1">
      {isPicture ? (
        <button
          type="button"
          aria-expanded={isOpen}
          aria-label={isOpen ? 'Make the picture small again' : 'Make the picture large'}
          onClick={() => setOpen(!isOpen)}
        >
          <LookPicture
            {...{ id, of: 'files', number: item, pixels: isOpen ? 1600 : 480 }}
            alt="Picture that came with it"
            className={`${isOpen ? 'max-h-[70vh]' : 'h-48'} max-w-full border border-line object-contain`}
          />
        </button>
      ) : (
        <button
          type="button"
          disabled={plays === null}
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
          className="font-mono text-small underline disabled:text-soft disabled:no-underline"
        >
          {plays === null ? `with it: ${name}` : `${isOpen ? 'Close' : 'Play'} ${name}`}
        </button>
      )}
      {isOpen && plays !== null && <Player {...{ id, item, path: name, plays }} />}
      {(isOpen || !isShown) && <SaveThis item={item} path={name} />}
    </span>
  );
}
