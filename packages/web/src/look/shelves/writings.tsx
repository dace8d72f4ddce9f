import { useQuery } from '@tanstack/react-query';
import { routes } from '@bright-cellar/contract';
import { countOf, formatBytes } from '@bright-cellar/core';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import Markdown, { type Components } from 'react-markdown';
import { call } from '../../api/call.js';
import { day, time } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { TakeInHand } from '../basket.js';
import { LookPicture, SaveThis } from '../bytes.js';
import { lookKey } from '../queries.js';
import { Months } from './months.js';
import { TimeColumn } from './time-column.js';
import { useShelf, type Shown } from './use-shelf.js';

/** What draws pages is large, and most never ask for it. */
const Pages = lazy(() => import('./pages.js'));

const when = (at: string): ReactNode => (
  <>
    <span className="block font-semibold text-ink">{day(at)}</span>
    {time(at)}
  </>
);

/** What somebody wrote down, whole, the newest first. */
export function Notes(shown: Shown) {
  const [start, setStart] = useState(0);
  const read = useShelf('notes', shown, start);
  if (!read) return <Loading what="Putting notes in order" />;
  return (
    <>
      <Months months={read.months} words={(count) => countOf(count, 'note')} onGo={setStart} />
      <TimeColumn
        label="Notes in the order of time"
        rowPx={160}
        hasMore={read.hasMore}
        onMore={read.onMore}
        start={start}
        onStart={setStart}
        rows={read.rows.map(({ item, title, text, at, isMarkdown, row }) => ({
          key: `${item}`,
          margin: (
            <>
              {when(at)}
              <TakeInHand small id={shown.id} pick={{ of: 'row', shelf: 'notes', row }}>
                Take it in hand
              </TakeInHand>
            </>
          ),
          body: (
            <>
              <h3 className="font-semibold break-words">{title || 'Without words'}</h3>
              <Written text={bodyOf(text)} isMarkdown={isMarkdown} />
            </>
          ),
        }))}
      />
    </>
  );
}

/** Headings, lists and emphasis as they are meant; a link is letters, and nothing is fetched. */
const marks: Components = {
  a: ({ children, href }) => (
    <span>
      {children} {href && href !== children && <span className="text-soft">({href})</span>}
    </span>
  ),
  img: ({ alt }) => <span className="text-soft">{alt ? `picture: ${alt}` : 'a picture'}</span>,
};

function Written({ text, isMarkdown }: { text: string; isMarkdown: boolean }) {
  if (!isMarkdown) return <p className="break-words whitespace-pre-wrap">{text}</p>;
  return (
    <div className="written break-words">
      <Markdown components={marks} skipHtml>
        {text}
      </Markdown>
    </div>
  );
}

/** What comes after the line that is its title. */
const bodyOf = (text: string): string => text.trimStart().split(/\r?\n/).slice(1).join('\n').trim();

/** Documents, the newest first: texts, pages and pictures are shown, of others there are name and size. */
export function Documents(shown: Shown) {
  const [start, setStart] = useState(0);
  const [open, setOpen] = useState<number | null>(null);
  const read = useShelf('documents', shown, start);
  if (!read) return <Loading what="Listing documents" />;
  return (
    <>
      <Months months={read.months} words={(count) => countOf(count, 'document')} onGo={setStart} />
      <TimeColumn
        label="Documents in the order of time"
        rowPx={48}
        hasMore={read.hasMore}
        onMore={read.onMore}
        start={start}
        onStart={setStart}
        rows={read.rows.map(({ item, path, bytes, at, shows, row }) => ({
          key: `${item}`,
          margin: (
            <>
              {when(at)}
              <TakeInHand small id={shown.id} pick={{ of: 'row', shelf: 'documents', row }}>
                Take it in hand
              </TakeInHand>
            </>
          ),
          body: (
            <>
              <button
                type="button"
                disabled={shows === null}
                aria-expanded={open === item}
                onClick={() => setOpen(open === item ? null : item)}
                className="text-left underline disabled:no-underline"
              >
                {path}
              </button>
              <span className="text-small text-soft">
                {' '}
                {formatBytes(bytes)}
                {shows === null && ', cannot be shown here'}{' '}
              </span>
              <SaveThis item={item} path={path} />
              {open === item && shows === 'text' && <Text id={shown.id} item={item} />}
              {open === item && shows === 'pages' && (
                <Suspense fallback={<p className="text-small text-soft">Reading it</p>}>
                  <Pages {...{ id: shown.id, item, path }} />
                </Suspense>
              )}
              {open === item && shows === 'picture' && (
                <LookPicture
                  {...{ id: shown.id, of: 'files', number: item, pixels: 1200 }}
                  alt={`Picture ${path}`}
                  className="max-h-[45vh] object-contain"
                />
              )}
            </>
          ),
        }))}
      />
    </>
  );
}

function Text({ id, item }: { id: string; item: number }) {
  const read = useQuery({
    queryKey: [...lookKey(id), 'text', item],
    queryFn: () => call(routes.lookText, { params: { id }, body: { item } }),
    staleTime: Infinity,
    gcTime: 0,
  }).data;
  if (!read) return <p className="text-soft">Reading it</p>;
  return (
    <div className="mt-2 border-l-4 border-line pl-3">
      <p className="break-words whitespace-pre-wrap">{read.text}</p>
      {!read.isAll && <p className="text-small text-soft">There is more of it than is shown.</p>}
    </div>
  );
}
