import { useQuery } from '@tanstack/react-query';
import { shelfClasses, type LookAmounts, type ShelfId } from '@bright-cellar/contract';
import { countOf, dataClasses, formatBytes, type DataClass } from '@bright-cellar/core';
import { useDeferredValue, useRef, useState, type ReactNode } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { problemFrom } from '../api/call.js';
import { queries } from '../api/queries.js';
import { Button, ButtonLink } from '../design/button.js';
import { dateTime } from '../design/dates.js';
import { TextField } from '../design/field.js';
import { Loading } from '../design/loading.js';
import { Note, ProblemNote } from '../design/note.js';
import { Page } from '../design/page.js';
import { InHand } from './basket.js';
import { ClassView } from './class-view.js';
import { CompareView } from './compare-view.js';
import { ConversationList } from './conversation-list.js';
import { FoundEverywhere } from './found-everywhere.js';
import { lookQueries } from './queries.js';
import { ReadingColumn, type ReadAt } from './reading-column.js';
import { SamplesView } from './samples-view.js';
import { shelfViews } from './shelves/index.js';

/** The reading desk: what is in a backup, read in one column; what else there is, in the margin. */
export function LookPage() {
  const { id = '' } = useParams();
  const isCheck = useSearchParams()[0].has('samples');
  const open = useQuery(queries.lookIns()).data;
  const look = open?.find((one) => one.id === id && one.isOwn);
  const amounts = useQuery({ ...lookQueries.amounts(id), enabled: look !== undefined });
  if (!open) return <Loading what="Opening the backup" />;
  if (!look || amounts.error) {
    return (
      <Page title="Look inside" now="Nothing is open here." calm>
        {amounts.error ? (
          <ProblemNote problem={problemFrom(amounts.error)} />
        ) : (
          <Note>
            This look-in is over. Its key is forgotten, and nothing of it is kept. Open the backup
            again with its password, from the archive.
          </Note>
        )}
        <span>
          <ButtonLink to="/archives">To the archives</ButtonLink>
        </span>
      </Page>
    );
  }
  if (!amounts.data) return <Loading what="Opening the backup" />;
  return (
    <Desk
      id={look.id}
      title={`Inside ${look.deviceName}`}
      amounts={amounts.data}
      compare={<CompareView look={look} />}
      samples={<SamplesView id={look.id} />}
      begins={isCheck ? 'samples' : null}
      send={
        <ButtonLink to={`/restore/${look.archiveId}/${look.backupId}?hand=${look.id}`}>
          Send onto a device …
        </ButtonLink>
      }
    />
  );
}

interface ClassAt {
  class: DataClass;
  shelf: ShelfId | null;
  text: string;
}
type Reading = ReadAt | ClassAt | 'compare' | 'samples' | null;

/** Reads in what is open. @param compare what compares it with others, and @param send what sends what is in hand onto a device; nothing where there are none */
export function Desk({
  id,
  title,
  amounts,
  compare,
  samples,
  send,
  begins = null,
}: {
  id: string;
  title: string;
  amounts: LookAmounts;
  compare?: ReactNode;
  samples?: ReactNode;
  send?: ReactNode;
  /** What is read first. */
  begins?: 'samples' | null;
}) {
  const [reading, setReading] = useState<Reading>(begins);
  const [text, setText] = useState('');
  const asked = useDeferredValue(text.trim());
  const at =
    typeof reading === 'object' && reading !== null && 'conversation' in reading ? reading : null;
  const column = useRef<HTMLDivElement>(null);
  const read = (next: Reading) => {
    setText('');
    setReading(next);
    // Whoever chose it further down begins at its top.
    column.current?.scrollIntoView({ block: 'nearest' });
  };
  const filled = new Set(amounts.shelves.filter(({ rows }) => rows > 0).map(({ shelf }) => shelf));
  return (
    <Page
      title={title}
      aside={
        compare && (
          <span className="flex gap-2">
            <Button aria-pressed={reading === 'samples'} onClick={() => read('samples')}>
              Draw samples
            </Button>
            <Button aria-pressed={reading === 'compare'} onClick={() => read('compare')}>
              Is it all there?
            </Button>
          </span>
        )
      }
      now={nowOf(amounts)}
      calm={amounts.isAll}
    >
      <div className="grid grid-cols-[16rem_minmax(0,1fr)_12rem] items-start gap-6">
        <div className="flex flex-col gap-3">
          <TextField
            label="Find in all of it"
            hint="Words, names, a number however it is written, or when: last March."
            type="search"
            autoComplete="off"
            value={text}
            onChange={({ target }) => setText(target.value)}
          />
          <ConversationList
            id={id}
            isAll={amounts.isAll || amounts.isCut}
            chosen={at?.conversation ?? null}
            onChoose={(conversation) => read({ conversation, index: null })}
          />
        </div>
        <div ref={column} className="min-w-0">
          {asked !== '' ? (
            <FoundEverywhere
              id={id}
              text={asked}
              onMessage={(conversation, index) => read({ conversation, index })}
              onShelf={(shelf, sought) => read({ class: shelfClasses[shelf], shelf, text: sought })}
            />
          ) : reading === null ? (
            <p className="border border-line bg-surface px-4 py-6 text-soft">
              Choose a conversation on the left, a class on the right, or type what you look for.
            </p>
          ) : reading === 'samples' ? (
            amounts.isAll ? (
              samples
            ) : (
              <Loading what="Reading all of it, to draw from" />
            )
          ) : reading === 'compare' ? (
            compare
          ) : 'class' in reading ? (
            <ClassView
              key={`${reading.class} ${reading.shelf} ${reading.text}`}
              id={id}
              dataClass={reading.class}
              shelf={reading.shelf}
              text={reading.text}
              filled={filled}
            />
          ) : (
            <ReadingColumn key={reading.conversation} id={id} at={reading} />
          )}
        </div>
        <div className="flex flex-col gap-5">
          <InHand id={id} send={send} />
          <Held amounts={amounts} reading={reading} onRead={read} />
        </div>
      </div>
    </Page>
  );
}

function nowOf({
  isAll,
  isCut,
  items,
  conversations,
  messages,
  backupTakenAt,
}: LookAmounts): string {
  const taken = `The backup of ${dateTime(backupTakenAt)}`;
  if (isCut) return `${taken} is damaged: read what was found before that.`;
  if (!isAll) return `${taken} is being read: ${countOf(items, 'item')} so far.`;
  return `${taken} holds ${countOf(messages, 'message')} in ${countOf(conversations, 'conversation')}.`;
}

/** What is in the backup, by class: each is there as files, whether its records can be read or not. */
function Held({
  amounts: { classes, shelves, unreadable, isDating },
  reading,
  onRead,
}: {
  amounts: LookAmounts;
  reading: Reading;
  onRead: (next: Reading) => void;
}) {
  const chosen =
    typeof reading === 'object' && reading !== null && 'class' in reading ? reading.class : null;
  const rowsOf = (dataClass: DataClass) =>
    shelves
      .filter(({ shelf, rows }) => shelfClasses[shelf] === dataClass && rows > 0)
      .map(({ shelf, rows }) =>
        shelfViews[shelf].name === dataClasses[dataClass]
          ? rows.toLocaleString('en')
          : `${shelfViews[shelf].name} ${rows.toLocaleString('en')}`,
      )
      .join(', ');
  return (
    <section className="flex flex-col gap-2" aria-labelledby="held">
      <h2 id="held" className="text-large">
        What is in it
      </h2>
      <ul className="border-t border-line">
        {classes.map(({ class: dataClass, items, bytes }) => (
          <li key={dataClass} className="border-b border-line">
            <button
              type="button"
              disabled={dataClass === 'saved-passwords'}
              aria-pressed={chosen === dataClass}
              onClick={() => onRead({ class: dataClass, shelf: null, text: '' })}
              className="flex min-h-9 w-full flex-col px-2 py-1 text-left hover:bg-surface aria-pressed:bg-surface aria-pressed:font-bold"
            >
              {dataClasses[dataClass]}
              <span className="text-small font-normal text-soft">
                {rowsOf(dataClass) || countOf(items, 'file')}, {formatBytes(bytes)}
                {dataClass === 'saved-passwords' && ': counted, never shown'}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {isDating && (
        <p className="text-small text-soft">
          When and where photographs were taken is still being read.
        </p>
      )}
      {unreadable > 0 && (
        <p className="text-small text-soft">
          {countOf(unreadable, 'file')} could not be read as what it says it is, and is there as a
          file.
        </p>
      )}
    </section>
  );
}
