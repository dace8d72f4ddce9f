import type { ShelfRow } from '@bright-cellar/contract';
import { countOf, formatDuration } from '@bright-cellar/core';
import { addMonths, endOfMonth, format, startOfMonth, startOfWeek } from 'date-fns';
import { useState } from 'react';
import { Button } from '../../design/button.js';
import { day, time } from '../../design/dates.js';
import { Loading } from '../../design/loading.js';
import { useNow } from '../../design/use-now.js';
import { TakeInHand } from '../basket.js';
import { Months } from './months.js';
import { TimeColumn } from './time-column.js';
import { useShelf, type Shown } from './use-shelf.js';

type Event = ShelfRow<'calendar'>;

/** What happens, as a list in the order of time, or a month at a glance. */
export function Calendar(shown: Shown) {
  const [start, setStart] = useState<number | null>(null);
  const [isMonth, setMonth] = useState(false);
  const heads = useShelf('calendar', shown, 0);
  // One begins to read where the month of today begins, or with the last that there is.
  const now = format(useNow(), 'yyyy-MM');
  const present = heads?.months.filter(({ month }) => month <= now).at(-1);
  const from = start ?? present?.first ?? 0;
  const read = useShelf('calendar', shown, from);
  if (!heads || !read) return <Loading what="Putting the calendar in order" />;
  return (
    <>
      <div className="flex items-end gap-4">
        <div className="min-w-0 flex-1">
          <Months months={heads.months} words={(n) => countOf(n, 'event')} onGo={setStart} />
        </div>
        <Button onClick={() => setMonth(!isMonth)}>
          {isMonth ? 'As a list' : 'A month at a glance'}
        </Button>
      </div>
      {isMonth ? (
        <Month events={read.rows} />
      ) : (
        <TimeColumn
          label="What happens, in the order of time"
          rowPx={64}
          hasMore={read.hasMore}
          onMore={read.onMore}
          start={from}
          onStart={setStart}
          rows={read.rows.map((event, n) => ({
            key: `${from + n}`,
            margin: (
              <>
                {day(event.at) !== day(read.rows[n - 1]?.at ?? '1970-01-01') && (
                  <span className="block font-semibold text-ink">{day(event.at)}</span>
                )}
                {whenOf(event)}
                <TakeInHand
                  small
                  id={shown.id}
                  pick={{ of: 'row', shelf: 'calendar', row: event.row }}
                >
                  Take it in hand
                </TakeInHand>
              </>
            ),
            body: <Told event={event} />,
          }))}
        />
      )}
    </>
  );
}

function whenOf({ at, until, isWholeDay }: Event): string {
  const days = Math.round((Date.parse(until) - Date.parse(at)) / 86_400_000);
  if (isWholeDay) return days > 1 ? countOf(days, 'whole day') : 'the whole day';
  return at === until ? time(at) : `${time(at)} to ${time(until)}`;
}

function Told({ event: { title, place, notes, isRepeated, zone, alarms } }: { event: Event }) {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const facts = [
    place,
    isRepeated ? 'recurs' : '',
    zone !== null && zone !== 'UTC' && zone !== here ? `on clocks of ${zone}` : '',
    ...alarms.map((minutes) =>
      minutes > 0 ? `noticed ${formatDuration(minutes * 60_000)} before` : 'noticed when it begins',
    ),
  ].filter(Boolean);
  return (
    <>
      <p className="break-words">{title || 'Without a title'}</p>
      {facts.length > 0 && <p className="text-small text-soft">{facts.join(', ')}</p>}
      {notes && <p className="text-small break-words whitespace-pre-wrap text-soft">{notes}</p>}
    </>
  );
}

/** The month of the first of them, a line a week: what does not fit is a figure. */
function Month({ events }: { events: readonly Event[] }) {
  const [first] = events;
  if (!first) return <p className="text-soft">Nothing happens then.</p>;
  const month = startOfMonth(new Date(first.at));
  const end = endOfMonth(month);
  const byDay = new Map<string, Event[]>();
  for (const event of events) {
    const key = format(new Date(event.at), 'yyyy-MM-dd');
    byDay.set(key, [...(byDay.get(key) ?? []), event]);
  }
  const weeks: Date[][] = [];
  const at = startOfWeek(month, { weekStartsOn: 1 });
  while (at <= end) {
    weeks.push(
      Array.from(
        { length: 7 },
        (_, n) => new Date(at.getFullYear(), at.getMonth(), at.getDate() + n),
      ),
    );
    at.setDate(at.getDate() + 7);
  }
  return (
    <table className="w-full table-fixed border-collapse text-small">
      <caption className="pb-1 text-left text-large">{format(month, 'MMMM yyyy')}</caption>
      <thead>
        <tr>
          {weeks[0]?.map((one) => (
            <th key={one.getDay()} className="border-b-2 border-line text-left font-semibold">
              {format(one, 'EEE')}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {weeks.map((week) => (
          <tr key={format(week[0] ?? month, 'yyyy-MM-dd')}>
            {week.map((one) => (
              <td key={one.getDay()} className="h-16 border-b border-line py-1 pr-2 align-top">
                {one >= month && one < addMonths(month, 1) && (
                  <Day events={byDay.get(format(one, 'yyyy-MM-dd')) ?? []} date={one} />
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** So many fit on a day. */
const OF_A_DAY = 3;

function Day({ events, date }: { events: readonly Event[]; date: Date }) {
  return (
    <>
      <span className={events.length > 0 ? 'font-semibold' : 'text-soft'}>{date.getDate()}</span>
      {events.slice(0, OF_A_DAY).map((event) => (
        <span key={`${event.at} ${event.title}`} className="block truncate" title={event.title}>
          {!event.isWholeDay && `${time(event.at)} `}
          {event.title}
        </span>
      ))}
      {events.length > OF_A_DAY && (
        <span className="block text-soft">and {events.length - OF_A_DAY} more</span>
      )}
    </>
  );
}
