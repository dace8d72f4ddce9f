import type { ShelfRow } from '@bright-cellar/contract';
import { countOf, formatBytes } from '@bright-cellar/core';
import { useState } from 'react';
import { day, time } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { TakeInHand } from '../basket.js';
import { LookPicture, SaveThis } from '../bytes.js';
import { Months } from './months.js';
import { Player, VideoPreview } from './player.js';
import { TimeColumn } from './time-column.js';
import { useShelf, type Shown } from './use-shelf.js';

type Played = ShelfRow<'music'> & { isPicture?: boolean; row: number };

/** Videos, voice notes or music: played straight from the archive, a part at a time. */
function PlayedShelf({
  shelf,
  noun,
  shown,
}: {
  shelf: 'videos' | 'voice-notes' | 'music';
  noun: string;
  shown: Shown;
}) {
  const [start, setStart] = useState(0);
  const [open, setOpen] = useState<number | null>(null);
  const read = useShelf(shelf, shown, start);
  if (!read) return <Loading what="Listing them" />;
  return (
    <>
      <Months months={read.months} words={(count) => countOf(count, noun)} onGo={setStart} />
      <TimeColumn
        label={`Every ${noun}, one below the other`}
        rowPx={72}
        hasMore={read.hasMore}
        onMore={read.onMore}
        start={start}
        onStart={setStart}
        rows={(read.rows as Played[]).map((one) => ({
          key: `${one.item}`,
          margin: (
            <>
              <span className="block font-semibold text-ink">{day(one.at)}</span>
              {time(one.at)}
              <TakeInHand small id={shown.id} pick={{ of: 'row', shelf, row: one.row }}>
                Take it in hand
              </TakeInHand>
            </>
          ),
          body: (
            <Play
              id={shown.id}
              one={one}
              isOpen={open === one.item}
              onOpen={() => setOpen(open === one.item ? null : one.item)}
            />
          ),
        }))}
      />
    </>
  );
}

function Play({
  id,
  one: { item, path, bytes, plays, isPicture },
  isOpen,
  onOpen,
}: {
  id: string;
  one: Played;
  isOpen: boolean;
  onOpen: () => void;
}) {
  const canBeShown = plays !== null || isPicture === true;
  return (
    <div className="flex flex-col gap-1">
      <p className="flex flex-wrap items-start gap-x-3">
        {!isOpen && plays?.startsWith('video/') && <VideoPreview {...{ id, item, bytes }} />}
        <button
          type="button"
          disabled={!canBeShown}
          aria-expanded={isOpen}
          onClick={onOpen}
          className="text-left underline disabled:no-underline"
        >
          {path}
        </button>
        <span className="text-small text-soft">
          {' '}
          {formatBytes(bytes)}
          {!canBeShown && ', which no browser plays'}
        </span>
      </p>
      {isOpen && plays !== null && <Player {...{ id, item, path, plays }} />}
      {isOpen && plays === null && (
        <LookPicture
          {...{ id, of: 'files', number: item, pixels: 1200 }}
          alt={`Picture ${path}`}
          className="max-h-[45vh] self-start object-contain"
        />
      )}
      {isOpen && (
        <span>
          <SaveThis item={item} path={path} />
        </span>
      )}
    </div>
  );
}

export const Videos = (shown: Shown) => <PlayedShelf shelf="videos" noun="video" shown={shown} />;
export const VoiceNotes = (shown: Shown) => (
  <PlayedShelf shelf="voice-notes" noun="voice note" shown={shown} />
);
export const Music = (shown: Shown) => <PlayedShelf shelf="music" noun="song" shown={shown} />;
