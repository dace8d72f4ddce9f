import type { ShelfRow } from '@bright-cellar/contract';
import { countOf, formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { Button } from '../../design/button.js';
import { dateTime, time } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { TakeInHand } from '../basket.js';
import { LookPicture, SaveThis } from '../bytes.js';
import { Months } from './months.js';
import { PlaceMap } from './place-map.js';
import { rowsOfDays } from './rows-of-days.js';
import { TimeColumn } from './time-column.js';
import { useShelf, type Shown } from './use-shelf.js';

type Photograph = ShelfRow<'photographs'> & { row: number };

/** Photographs day by day, with when and where in the margin; one is looked at large, or two beside each other. */
export function Photographs(shown: Shown) {
  const [start, setStart] = useState(0);
  const [large, setLarge] = useState<Photograph | null>(null);
  const [beside, setBeside] = useState<Photograph | null>(null);
  const read = useShelf('photographs', shown, start);
  if (!read) return <Loading what="Putting photographs in order" />;
  const days = rowsOfDays(read.rows);
  const at = large ? read.rows.indexOf(large) : -1;
  const step = (by: number) => setLarge(read.rows[at + by] ?? large);
  return (
    <>
      <Months
        months={read.months}
        words={(count) => countOf(count, 'photograph')}
        onGo={(first) => setStart(first)}
      />
      {large && (
        <section
          aria-label="Looked at"
          className="flex flex-col gap-2 border border-line bg-surface p-3"
          onKeyDown={({ key }) => {
            if (key === 'ArrowRight') step(1);
            if (key === 'ArrowLeft') step(-1);
            if (key === 'Escape') setLarge(null);
          }}
        >
          <div className="grid auto-cols-fr grid-flow-col gap-3">
            {[large, ...(beside ? [beside] : [])].map((one) => (
              <Large key={one.item} id={shown.id} one={one} />
            ))}
          </div>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => step(-1)} disabled={at <= 0}>
              Newer
            </Button>
            <Button onClick={() => step(1)} disabled={at < 0 || at === read.rows.length - 1}>
              Older
            </Button>
            <Button onClick={() => setBeside(beside ? null : large)}>
              {beside ? 'Only this one' : 'Keep it beside the next'}
            </Button>
            <TakeInHand id={shown.id} pick={{ of: 'row', shelf: 'photographs', row: large.row }}>
              Take it in hand
            </TakeInHand>
            <SaveThis item={large.item} path={large.path} />
            <Button onClick={() => setLarge(null)}>Put away</Button>
          </div>
        </section>
      )}
      <PlaceMap
        places={read.rows.flatMap(({ place }) => place ?? [])}
        label="Where the photographs that are listed were taken"
      />
      <TimeColumn
        label="Photographs day by day"
        rowPx={140}
        hasMore={read.hasMore}
        onMore={read.onMore}
        start={start}
        onStart={setStart}
        rows={days.map(({ name, part, count, made }) => ({
          key: `${name} ${part}`,
          margin: (
            <>
              <span className="block font-semibold text-ink">{name}</span>
              {part === 0 ? countOf(count, 'photograph') : 'the same day'}
              {[...new Set(made.map(({ album }) => album).filter(Boolean))].map((album) => (
                <span key={album} className="block">
                  {album}
                </span>
              ))}
            </>
          ),
          body: (
            <ul className="flex flex-wrap gap-x-3 gap-y-2">
              {made.map((one) => (
                <li key={one.item} className="flex flex-col">
                  <button
                    type="button"
                    aria-label={`Look at ${one.path}`}
                    aria-pressed={large?.item === one.item}
                    onClick={() => setLarge(one)}
                    className="aria-pressed:outline-4 aria-pressed:outline-ink"
                  >
                    {one.isPicture ? (
                      <LookPicture
                        {...{ id: shown.id, of: 'files', number: one.item, pixels: 240 }}
                        alt=""
                        loading="lazy"
                        className="h-22 w-auto min-w-16 bg-line object-contain"
                      />
                    ) : (
                      <span className="block h-22 w-30 border border-line p-2 text-small">
                        {one.path}
                      </span>
                    )}
                  </button>
                  <span className="text-small text-soft">
                    {time(one.at)}
                    {one.alike > 0 && `, there ${one.alike + 1} times`}
                  </span>
                </li>
              ))}
            </ul>
          ),
        }))}
      />
    </>
  );
}

function Large({ id, one }: { id: string; one: Photograph }) {
  return (
    <figure className="flex min-w-0 flex-col gap-1">
      {one.isPicture && (
        <LookPicture
          {...{ id, of: 'files', number: one.item, pixels: 1200 }}
          alt={`Picture ${one.path}`}
          className="max-h-[36vh] self-center object-contain"
        />
      )}
      <figcaption className="text-small text-soft">
        {one.path}, {formatBytes(one.bytes)},{' '}
        {one.isAtSaid ? `taken ${dateTime(one.at)}` : `changed ${dateTime(one.at)}`}
        {one.camera && `, with ${one.camera}`}
        {one.place && `, at ${degrees(one.place)}`}
        {one.alike > 0 && `; ${countOf(one.alike, 'other')} with the very same contents`}
      </figcaption>
    </figure>
  );
}

const degrees = ({ latitude, longitude }: { latitude: number; longitude: number }) =>
  `${Math.abs(latitude).toFixed(3)}° ${latitude < 0 ? 'S' : 'N'}, ${Math.abs(longitude).toFixed(3)}° ${longitude < 0 ? 'W' : 'E'}`;
